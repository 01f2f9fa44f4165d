-- Partitions, inheritance, typed and foreign tables, and what a table can have beside its columns.
-- not kept since 18: local
CREATE SCHEMA ops;
CREATE TABLE ops.passage (id bigint NOT NULL, sailed timestamptz NOT NULL, harbour text NOT NULL DEFAULT 'Skerry', load numeric CHECK (load >= 0), PRIMARY KEY (id, sailed, harbour)) PARTITION BY RANGE (sailed);
CREATE INDEX passage_by_harbour ON ops.passage (harbour);
CREATE TABLE ops.passage_2025 PARTITION OF ops.passage FOR VALUES FROM ('2025-01-01 00:00+00') TO ('2026-01-01 00:00+00');
CREATE TABLE ops.passage_2026 PARTITION OF ops.passage FOR VALUES FROM ('2026-01-01 00:00+00') TO ('2027-01-01 00:00+00') PARTITION BY LIST (harbour);
CREATE TABLE ops.passage_2026_skerry PARTITION OF ops.passage_2026 FOR VALUES IN ('Skerry', 'Lund');
CREATE TABLE ops.passage_2026_rest PARTITION OF ops.passage_2026 DEFAULT;
CREATE TABLE ops.passage_later (sailed timestamptz NOT NULL, id bigint NOT NULL, load numeric CHECK (load >= 0), harbour text NOT NULL);
ALTER TABLE ops.passage_later RENAME CONSTRAINT passage_later_load_check TO passage_load_check;
ALTER TABLE ops.passage ATTACH PARTITION ops.passage_later FOR VALUES FROM ('2027-01-01 00:00+00') TO (MAXVALUE);
CREATE INDEX passage_2025_only ON ops.passage_2025 (load);
COMMENT ON TABLE ops.passage_2025 IS 'the old ones';
CREATE TABLE ops.spread (k int, v text) PARTITION BY HASH (k, (lower(v)));
CREATE TABLE ops.spread_0 PARTITION OF ops.spread FOR VALUES WITH (MODULUS 2, REMAINDER 0);
CREATE TABLE ops.spread_1 PARTITION OF ops.spread FOR VALUES WITH (MODULUS 2, REMAINDER 1);
CREATE TABLE ops.claim (passage bigint, sailed timestamptz, harbour text, FOREIGN KEY (passage, sailed, harbour) REFERENCES ops.passage);
CREATE TABLE ops.vessel (id int PRIMARY KEY, name text NOT NULL DEFAULT 'unnamed', built date, CONSTRAINT has_name CHECK (name <> '') , CONSTRAINT here_only CHECK (id > 0) NO INHERIT);
CREATE TABLE ops.ferry (decks int DEFAULT 1) INHERITS (ops.vessel);
ALTER TABLE ops.ferry ALTER COLUMN name SET DEFAULT 'ferry', ALTER COLUMN built SET NOT NULL;
CREATE TABLE ops.tug (pull numeric, CONSTRAINT strong CHECK (pull > 1)) INHERITS (ops.vessel);
ALTER TABLE ops.tug ALTER COLUMN name DROP DEFAULT;
CREATE TABLE ops.twin () INHERITS (ops.ferry, ops.tug);
CREATE TYPE ops.reading AS (gauge int, level numeric, at timestamptz);
CREATE TABLE ops.tide OF ops.reading (gauge WITH OPTIONS NOT NULL, level WITH OPTIONS DEFAULT 0 CHECK (level > -20), PRIMARY KEY (gauge, at));
CREATE TABLE ops.bare OF ops.reading;
CREATE FOREIGN DATA WRAPPER carrier OPTIONS (flag 'blue');
COMMENT ON FOREIGN DATA WRAPPER carrier IS 'by boat';
CREATE SERVER mainland TYPE 'archive' VERSION '3' FOREIGN DATA WRAPPER carrier OPTIONS (host 'mainland.example', "odd name" 'x''y');
COMMENT ON SERVER mainland IS 'across the sound';
CREATE USER MAPPING FOR PUBLIC SERVER mainland OPTIONS ("user" 'guest');
CREATE USER MAPPING FOR atlas SERVER mainland;
CREATE FOREIGN TABLE ops.archive (id int OPTIONS (col 'nr') NOT NULL, note text COLLATE "C" DEFAULT '-', CONSTRAINT positive CHECK (id > 0)) SERVER mainland OPTIONS (sheet 'old');
COMMENT ON FOREIGN TABLE ops.archive IS 'on paper';
CREATE TABLE ops.sheet (id int, isle text) PARTITION BY LIST (isle);
CREATE FOREIGN TABLE ops.sheet_far PARTITION OF ops.sheet FOR VALUES IN ('Holm') SERVER mainland;
CREATE UNLOGGED TABLE ops.scratch (id serial PRIMARY KEY, a int, b text) WITH (fillfactor = 70, autovacuum_enabled = false, toast.autovacuum_enabled = false);
ALTER TABLE ops.scratch ALTER COLUMN b SET STORAGE EXTERNAL, ALTER COLUMN a SET STATISTICS 500, ALTER COLUMN a SET (n_distinct = -0.5), ALTER COLUMN b SET COMPRESSION pglz; -- since 14
ALTER TABLE ops.scratch ALTER COLUMN b SET STORAGE EXTERNAL, ALTER COLUMN a SET STATISTICS 500, ALTER COLUMN a SET (n_distinct = -0.5); -- until 13
CREATE UNLOGGED SEQUENCE ops.scratch_numbers INCREMENT 5; -- since 15
CREATE SEQUENCE ops.scratch_numbers INCREMENT 5; -- until 14
CREATE INDEX scratch_expr ON ops.scratch ((a + 1), lower(b)) WITH (fillfactor = 60);
ALTER INDEX ops.scratch_expr ALTER COLUMN 2 SET STATISTICS 300;
CLUSTER ops.scratch USING scratch_pkey;
CREATE TABLE ops.booking (room int NOT NULL, span tstzrange, guest int, EXCLUDE USING gist (span WITH &&) WHERE (guest > 0), CONSTRAINT one_room EXCLUDE USING btree (room WITH =) DEFERRABLE INITIALLY DEFERRED);
COMMENT ON CONSTRAINT one_room ON ops.booking IS 'one at a time';
ALTER TABLE ops.booking REPLICA IDENTITY FULL;
CREATE TABLE ops.ledger (id int NOT NULL, entry text);
CREATE UNIQUE INDEX ledger_id ON ops.ledger (id);
ALTER TABLE ops.ledger REPLICA IDENTITY USING INDEX ledger_id;
CREATE TABLE ops.silent (id int);
ALTER TABLE ops.silent REPLICA IDENTITY NOTHING;
CREATE STATISTICS ops.booking_stats (ndistinct, dependencies) ON room, guest FROM ops.booking;
CREATE STATISTICS ops.ledger_words ON (lower(entry)), id FROM ops.ledger; -- since 14
ALTER STATISTICS ops.booking_stats SET STATISTICS 700; -- since 13
COMMENT ON STATISTICS ops.booking_stats IS 'they hang together';
CREATE MATERIALIZED VIEW ops.loads AS SELECT harbour, sum(load) AS load FROM ops.passage GROUP BY harbour;
CREATE UNIQUE INDEX loads_by_harbour ON ops.loads (harbour);
COMMENT ON MATERIALIZED VIEW ops.loads IS 'once a night';
CREATE MATERIALIZED VIEW ops.not_yet (h, n) WITH (fillfactor = 80) AS SELECT harbour, count(*) FROM ops.loads GROUP BY 1 WITH NO DATA;
