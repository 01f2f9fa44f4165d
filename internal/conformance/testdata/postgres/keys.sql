-- Keys, foreign keys with all actions, checks, cycles, self references, references to an index.
CREATE SCHEMA "Ops Desk";
CREATE TABLE harbour (
    code char(3) CONSTRAINT harbour_code PRIMARY KEY,
    name text UNIQUE NULLS NOT DISTINCT, -- since 15
    name text UNIQUE, -- until 14
    main_berth int,
    CONSTRAINT short CHECK (length(code) = 3) NO INHERIT
);
CREATE TABLE berth (
    id int PRIMARY KEY,
    harbour char(3) NOT NULL REFERENCES harbour ON UPDATE CASCADE ON DELETE RESTRICT,
    no int,
    kind text CHECK (kind IN ('stone', 'timber')),
    UNIQUE (harbour, no) INCLUDE (kind),
    CONSTRAINT depth_range CHECK (no BETWEEN 1 AND 99)
);
ALTER TABLE harbour ADD CONSTRAINT main FOREIGN KEY (main_berth) REFERENCES berth (id) ON DELETE SET NULL DEFERRABLE INITIALLY DEFERRED;
COMMENT ON CONSTRAINT main ON harbour IS 'where the office is';
COMMENT ON CONSTRAINT depth_range ON berth IS 'as painted';
CREATE TABLE pilot (id int PRIMARY KEY, mentor int REFERENCES pilot ON DELETE SET DEFAULT DEFERRABLE, licence text);
CREATE UNIQUE INDEX pilot_licence ON pilot (licence);
CREATE TABLE "Ops Desk"."duty roster" (
    "pilot no" int REFERENCES pilot,
    licence text REFERENCES pilot (licence),
    "from" date, "select" int, """quoted""" int, "line
break" int,
    PRIMARY KEY ("pilot no", "from"),
    UNIQUE ("from") DEFERRABLE
);
CREATE TABLE "Ops Desk".pair (a int, b int, c int, PRIMARY KEY (a, b));
CREATE TABLE "Ops Desk".half (x int, y int, z int,
    CONSTRAINT full_match FOREIGN KEY (x, y) REFERENCES "Ops Desk".pair (a, b) MATCH FULL,
    CONSTRAINT some_columns FOREIGN KEY (x, z) REFERENCES "Ops Desk".pair (a, b) ON DELETE SET NULL (z)); -- since 15
    CONSTRAINT some_columns FOREIGN KEY (x, z) REFERENCES "Ops Desk".pair (a, b) ON DELETE SET NULL); -- until 14
ALTER TABLE "Ops Desk".half ADD CONSTRAINT later FOREIGN KEY (z, y) REFERENCES "Ops Desk".pair NOT VALID;
ALTER TABLE "Ops Desk".half ADD CONSTRAINT positive CHECK (x > 0) NOT VALID;

-- What the server prints of IN over other types than text is not what it was told.
CREATE DOMAIN "Ops Desk".mark AS varchar(4) CHECK (VALUE IN ('red', 'blue'));
CREATE TABLE "Ops Desk".lists (
    state varchar(20) CHECK (state IN ('open', 'it''s, "closed"', '])::x[')) DEFAULT 'open',
    letter char(1) CHECK (letter NOT IN ('a', 'b')),
    amount numeric(8,2) CHECK (amount IN (1, 2.5)),
    mark "Ops Desk".mark CHECK (mark IN ('red', 'blue') OR mark = ANY (ARRAY['x', 'y']::varchar[])),
    name name CHECK (name IN ('x', 'y')),
    mixed varchar CHECK (mixed IN ('x', lower('Y'), NULL)),
    known bool GENERATED ALWAYS AS (state IN ('open', 'shut')) STORED
);
CREATE INDEX lists_open ON "Ops Desk".lists (state) WHERE state IN ('open', 'half open');
CREATE VIEW "Ops Desk".listed AS SELECT *, CASE WHEN state IN ('open', 'shut') THEN 1 END AS n FROM "Ops Desk".lists WHERE state NOT IN ('gone', 'lost');
