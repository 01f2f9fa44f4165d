-- Routines that run while a script runs: what they call has to be there.
CREATE SCHEMA ops;
CREATE FUNCTION ops.z_inner(t text) RETURNS text LANGUAGE sql IMMUTABLE AS $$ SELECT upper(t) $$;
CREATE FUNCTION ops.a_outer(t text) RETURNS text LANGUAGE sql IMMUTABLE AS $$ SELECT ops.z_inner(t) || '!' $$;
CREATE FUNCTION ops.m_block(t text) RETURNS text LANGUAGE plpgsql IMMUTABLE AS $$ BEGIN RETURN ops.a_outer(t); END $$;
CREATE TABLE ops.beacon (id integer PRIMARY KEY, name text DEFAULT ops.a_outer('beacon'), shout text GENERATED ALWAYS AS (ops.a_outer('x' || id::text)) STORED, CHECK (ops.a_outer(name) <> '!'), CHECK (ops.m_block(name) IS NOT NULL));
CREATE INDEX beacon_shout ON ops.beacon (ops.a_outer(name));
CREATE INDEX beacon_block ON ops.beacon (ops.m_block(name)) WHERE ops.a_outer(name) <> '';
-- A routine over the rows of a table that runs it.
CREATE FUNCTION ops.label(b ops.beacon) RETURNS text LANGUAGE sql IMMUTABLE AS $$ SELECT ops.z_inner(b.name) $$;
CREATE INDEX beacon_label ON ops.beacon (ops.label(beacon));
CREATE MATERIALIZED VIEW ops.shouts AS SELECT ops.m_block(name) AS shout FROM ops.beacon;
CREATE TABLE ops.z_table (n integer);
CREATE FUNCTION ops.counted() RETURNS bigint LANGUAGE sql STABLE AS $$ SELECT count(*) FROM ops.z_table $$;
CREATE MATERIALIZED VIEW ops.a_count AS SELECT ops.counted() AS n;
