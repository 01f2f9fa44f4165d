-- Inheritance in every order that a server allows. Of a table that joins its parents when it is made, the server
-- takes every column for the table's own.
-- not kept: local
CREATE TABLE hull (id integer NOT NULL, name text DEFAULT 'unnamed', CONSTRAINT named CHECK (name <> ''));
CREATE TABLE engine (power_kw numeric(6,1), id integer NOT NULL);
CREATE TABLE tug (pull_t numeric(5,2), CHECK (pull_t > 0)) INHERITS (hull, engine);
-- The parent grew after the child was made: the inherited column comes last.
CREATE TABLE launch (crew integer) INHERITS (hull);
ALTER TABLE hull ADD COLUMN draught_m numeric(4,2) DEFAULT 1.5;
-- Attached later, in an order of its own.
CREATE TABLE barge (load_t integer, name text DEFAULT 'barge', draught_m numeric(4,2), id integer NOT NULL, CONSTRAINT named CHECK (name <> ''));
ALTER TABLE barge INHERIT hull;
CREATE TABLE pontoon (id integer NOT NULL, name text, power_kw numeric(6,1), draught_m numeric(4,2), CONSTRAINT named CHECK (name <> ''));
ALTER TABLE pontoon INHERIT engine;
ALTER TABLE pontoon INHERIT hull;
-- Without a column of its own.
CREATE TABLE raft () INHERITS (hull);
CREATE TABLE nothing ();
CREATE TABLE still_nothing () INHERITS (nothing);
-- Checks that are not validated, on a parent and on a child alone.
ALTER TABLE hull ADD CONSTRAINT deep CHECK (draught_m < 20) NOT VALID;
ALTER TABLE tug ADD CONSTRAINT strong CHECK (power_kw > 10) NOT VALID;
CREATE TABLE ferry (decks integer) INHERITS (hull);
ALTER TABLE hull ADD CONSTRAINT numbered CHECK (id > 0) NO INHERIT NOT VALID;
-- Generated columns.
CREATE TABLE leg (miles numeric, speed numeric, hours numeric GENERATED ALWAYS AS (miles / speed) STORED);
CREATE TABLE tow (tug integer) INHERITS (leg);
CREATE TABLE night_leg (miles numeric, hours numeric GENERATED ALWAYS AS (miles / speed) STORED, speed numeric);
ALTER TABLE night_leg INHERIT leg;
-- Two tables without columns of their own that refer to each other.
CREATE TABLE port (no integer PRIMARY KEY);
CREATE TABLE pier (no integer PRIMARY KEY);
ALTER TABLE port ADD COLUMN pier integer REFERENCES pier;
ALTER TABLE pier ADD COLUMN port integer REFERENCES port;
