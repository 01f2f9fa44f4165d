CREATE SCHEMA ops;
CREATE TABLE ops.pier (id integer NOT NULL, name text CONSTRAINT called NOT NULL, depth numeric, held daterange, CONSTRAINT pier_key PRIMARY KEY (id) WITH (fillfactor = 80), CONSTRAINT deep CHECK (depth > 1) NOT ENFORCED, CONSTRAINT pier_held UNIQUE (name, depth));
CREATE TABLE ops.rope (id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY, pier integer CONSTRAINT rope_pier REFERENCES ops.pier (id) NOT ENFORCED, length numeric, twice numeric GENERATED ALWAYS AS (length * 2) VIRTUAL);
CREATE DOMAIN ops.metres AS numeric CONSTRAINT known NOT NULL;
CREATE TABLE ops.log (id integer, day date NOT NULL, note text) PARTITION BY RANGE (day);
CREATE TABLE ops.log_25 PARTITION OF ops.log FOR VALUES FROM ('2025-01-01') TO ('2026-01-01');
CREATE FUNCTION ops.noted() RETURNS trigger LANGUAGE plpgsql AS $$BEGIN RETURN NEW; END$$;
CREATE TRIGGER noted AFTER INSERT ON ops.log FOR EACH ROW EXECUTE FUNCTION ops.noted();
CREATE PUBLICATION ops_all FOR TABLE ops.pier;
INSERT INTO ops.pier (id, name) VALUES (1, 'north'), (2, 'south');
INSERT INTO ops.rope (pier, length) VALUES (1, 5), (2, 7);
-- change: another name of a not-null constraint
ALTER TABLE ops.pier RENAME CONSTRAINT called TO always_called;
-- change: the name that the server makes up
ALTER TABLE ops.pier RENAME CONSTRAINT called TO pier_name_not_null;
-- change: not null, and not of all
ALTER TABLE ops.pier ADD CONSTRAINT measured NOT NULL depth NOT VALID;
-- change: not null under a name
ALTER TABLE ops.rope ADD CONSTRAINT long NOT NULL length;
-- change: not null for the table alone
ALTER TABLE ops.pier ALTER CONSTRAINT called NO INHERIT;
-- change: a comment on a not-null constraint
COMMENT ON CONSTRAINT called ON ops.pier IS 'by everybody';
-- change: a check that is enforced
ALTER TABLE ops.pier DROP CONSTRAINT deep; ALTER TABLE ops.pier ADD CONSTRAINT deep CHECK (depth > 1);
-- change: a check that is not enforced
ALTER TABLE ops.rope ADD CONSTRAINT short CHECK (length < 100) NOT ENFORCED;
-- change: a foreign key that is enforced
ALTER TABLE ops.rope ALTER CONSTRAINT rope_pier ENFORCED;
-- change: a foreign key that is not enforced
ALTER TABLE ops.rope ADD CONSTRAINT rope_other FOREIGN KEY (id) REFERENCES ops.pier (id) NOT ENFORCED;
-- change: a virtual column
ALTER TABLE ops.rope ADD COLUMN half numeric GENERATED ALWAYS AS (length / 2) VIRTUAL;
-- change: another expression of a virtual column
ALTER TABLE ops.rope ALTER COLUMN twice SET EXPRESSION AS (length * 2 + 0);
-- change: a stored column in the place of a virtual one
ALTER TABLE ops.rope DROP COLUMN twice; ALTER TABLE ops.rope ADD COLUMN twice numeric GENERATED ALWAYS AS (length * 2) STORED;
-- change: a key without overlaps
CREATE EXTENSION btree_gist; ALTER TABLE ops.pier DROP CONSTRAINT pier_held; ALTER TABLE ops.pier ADD CONSTRAINT pier_held UNIQUE (name, held WITHOUT OVERLAPS);
-- change: parameters of a key
ALTER INDEX ops.pier_key SET (fillfactor = 60);
-- change: no parameters of a key
ALTER INDEX ops.pier_key RESET (fillfactor);
-- change: a comment on the index of a key
COMMENT ON INDEX ops.pier_key IS 'by number';
-- change: what is said of an identity sequence
COMMENT ON SEQUENCE ops.rope_id_seq IS 'numbers ropes';
-- change: another name of an identity sequence
ALTER SEQUENCE ops.rope_id_seq RENAME TO rope_numbers;
-- change: an identity sequence that is not logged
ALTER SEQUENCE ops.rope_id_seq SET UNLOGGED;
-- change: the name of a domain's not null
ALTER DOMAIN ops.metres RENAME CONSTRAINT known TO measured;
-- change: a comment on a domain's not null
COMMENT ON CONSTRAINT known ON DOMAIN ops.metres IS 'by sounding';
-- change: a domain that may be null
ALTER DOMAIN ops.metres DROP NOT NULL;
-- change: a trigger that does not fire on a partition
ALTER TABLE ops.log_25 DISABLE TRIGGER noted;
-- change: computed columns are published
ALTER PUBLICATION ops_all SET (publish_generated_columns = stored);
-- change: rights on large objects
ALTER DEFAULT PRIVILEGES GRANT SELECT ON LARGE OBJECTS TO PUBLIC;
-- change: the collation of an index's expression
CREATE INDEX rope_text ON ops.rope (lower(length::text) COLLATE "C");
-- change: an index with an expression of another collation
CREATE INDEX pier_lower ON ops.pier (lower(name) COLLATE "POSIX");
-- change: rights on a member of an extension
CREATE EXTENSION pg_trgm SCHEMA ops; REVOKE EXECUTE ON FUNCTION ops.similarity(text, text) FROM PUBLIC;
