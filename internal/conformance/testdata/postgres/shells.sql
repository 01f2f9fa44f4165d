-- Base types, and what has to wait for all of them.
CREATE SCHEMA ops;
CREATE TYPE ops.knots;
CREATE FUNCTION ops.knots_in(cstring) RETURNS ops.knots LANGUAGE internal IMMUTABLE STRICT AS 'textin';
CREATE FUNCTION ops.knots_out(ops.knots) RETURNS cstring LANGUAGE internal IMMUTABLE STRICT AS 'textout';
CREATE TYPE ops.knots (INPUT = ops.knots_in, OUTPUT = ops.knots_out, LIKE = text);
CREATE FUNCTION ops.knots_text(ops.knots) RETURNS text LANGUAGE sql IMMUTABLE STRICT AS $$ SELECT 'x'::text $$;
CREATE CAST (ops.knots AS text) WITH FUNCTION ops.knots_text(ops.knots);
CREATE CAST (text AS ops.knots) WITHOUT FUNCTION;
CREATE TABLE ops.a_log (id integer PRIMARY KEY, speed ops.knots, gusts ops.knots[]);
CREATE TYPE ops.a_reading AS (at timestamptz, speed ops.knots);
CREATE DOMAIN ops.a_wind AS ops.knots;
CREATE VIEW ops.a_fast AS SELECT id, speed FROM ops.a_log;
CREATE FUNCTION ops.faster(ops.knots, ops.knots) RETURNS boolean LANGUAGE sql IMMUTABLE AS $$ SELECT $1::text > $2::text $$;
CREATE OPERATOR ops.>> (FUNCTION = ops.faster, LEFTARG = ops.knots, RIGHTARG = ops.knots);
