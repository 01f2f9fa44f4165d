-- A database whose first schema was taken away.
DROP SCHEMA public;
CREATE SCHEMA quay;
COMMENT ON SCHEMA quay IS 'in its place';
CREATE TABLE quay.berth (no integer PRIMARY KEY, name text NOT NULL);
CREATE TABLE quay.mooring (id integer PRIMARY KEY, berth integer REFERENCES quay.berth);
CREATE VIEW quay.taken AS SELECT b.name, count(m.id) AS moorings FROM quay.berth b LEFT JOIN quay.mooring m ON m.berth = b.no GROUP BY b.name;
CREATE FUNCTION quay.free(integer) RETURNS boolean LANGUAGE sql AS 'SELECT NOT EXISTS (SELECT 1 FROM quay.mooring WHERE berth = $1)';
