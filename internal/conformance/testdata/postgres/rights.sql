-- Row security, rules, triggers of all sorts, grants, publications and what else belongs to a database.
DO $$ BEGIN
  IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'deckhand') THEN CREATE ROLE deckhand; END IF;
  IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'Harbour Office') THEN CREATE ROLE "Harbour Office"; END IF;
  IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'auditor') THEN CREATE ROLE auditor; END IF;
END $$;
CREATE SCHEMA ops;
CREATE EXTENSION pg_trgm WITH SCHEMA ops;
COMMENT ON EXTENSION pg_trgm IS 'near names';
CREATE TABLE ops.berth (no int PRIMARY KEY, name text, secret text, held_by name DEFAULT current_user, free boolean);
CREATE INDEX berth_near ON ops.berth USING gin (name ops.gin_trgm_ops);
CREATE INDEX berth_nearer ON ops.berth USING gist (name ops.gist_trgm_ops (siglen = 64)); -- since 13
ALTER TABLE ops.berth ENABLE ROW LEVEL SECURITY;
ALTER TABLE ops.berth FORCE ROW LEVEL SECURITY;
CREATE POLICY own ON ops.berth USING (held_by = current_user) WITH CHECK (no > 0);
CREATE POLICY "look only" ON ops.berth AS RESTRICTIVE FOR SELECT TO deckhand, "Harbour Office" USING (free);
CREATE POLICY enter ON ops.berth FOR INSERT TO deckhand WITH CHECK (free);
COMMENT ON POLICY own ON ops.berth IS 'each their own';
CREATE VIEW ops.free_berth WITH (security_barrier = true) AS SELECT no, name FROM ops.berth WHERE free;
CREATE RULE "take it" AS ON UPDATE TO ops.free_berth DO INSTEAD UPDATE ops.berth SET name = NEW.name WHERE no = OLD.no;
CREATE RULE log_it AS ON DELETE TO ops.berth DO ALSO NOTIFY berths;
COMMENT ON RULE log_it ON ops.berth IS 'tell all';
CREATE RULE sleeping AS ON INSERT TO ops.berth DO ALSO NOTHING;
ALTER TABLE ops.berth DISABLE RULE sleeping;
CREATE FUNCTION ops.note() RETURNS trigger LANGUAGE plpgsql AS $$BEGIN RETURN NULL; END$$;
CREATE CONSTRAINT TRIGGER later AFTER UPDATE OF name ON ops.berth DEFERRABLE INITIALLY DEFERRED FOR EACH ROW WHEN (OLD.name IS DISTINCT FROM NEW.name) EXECUTE FUNCTION ops.note('a', 'b c');
CREATE TRIGGER batch AFTER INSERT ON ops.berth REFERENCING NEW TABLE AS fresh FOR EACH STATEMENT EXECUTE FUNCTION ops.note();
CREATE TRIGGER off BEFORE TRUNCATE ON ops.berth EXECUTE FUNCTION ops.note();
ALTER TABLE ops.berth DISABLE TRIGGER off;
ALTER TABLE ops.berth ENABLE ALWAYS TRIGGER batch;
GRANT SELECT, INSERT ON ops.berth TO deckhand;
GRANT UPDATE ON ops.berth TO "Harbour Office" WITH GRANT OPTION;
GRANT SELECT (no, name), UPDATE (name) ON ops.berth TO PUBLIC;
REVOKE DELETE, TRUNCATE ON ops.berth FROM atlas;
GRANT USAGE, CREATE ON SCHEMA ops TO deckhand;
GRANT SELECT ON ops.free_berth TO auditor;
CREATE SEQUENCE ops.numbers;
GRANT USAGE ON SEQUENCE ops.numbers TO deckhand;
CREATE FUNCTION ops.price(weight numeric, OUT due numeric, VARIADIC extras int[]) LANGUAGE sql STABLE STRICT SECURITY DEFINER PARALLEL SAFE LEAKPROOF COST 7 SET search_path = ops, pg_temp SET work_mem = '1MB' AS 'SELECT weight';
REVOKE EXECUTE ON FUNCTION ops.price FROM PUBLIC;
GRANT EXECUTE ON FUNCTION ops.price TO deckhand;
CREATE FUNCTION ops.names(prefix text DEFAULT 'x') RETURNS TABLE (no int, name text) LANGUAGE sql ROWS 10 BEGIN ATOMIC SELECT b.no, b.name FROM ops.berth b WHERE b.name LIKE prefix; END; -- since 14
CREATE FUNCTION ops.names(prefix text DEFAULT 'x') RETURNS TABLE (no int, name text) LANGUAGE sql ROWS 10 AS 'SELECT b.no, b.name FROM ops.berth b WHERE b.name LIKE prefix'; -- until 13
CREATE PROCEDURE ops.tidy(INOUT n int) LANGUAGE plpgsql AS $p$BEGIN n := 0; END$p$;
COMMENT ON PROCEDURE ops.tidy(int) IS 'now and then';
CREATE TYPE ops.mood AS ENUM ('calm', 'rough');
REVOKE USAGE ON TYPE ops.mood FROM PUBLIC;
GRANT USAGE ON TYPE ops.mood TO auditor;
ALTER TABLE ops.berth OWNER TO "Harbour Office";
ALTER DEFAULT PRIVILEGES IN SCHEMA ops GRANT SELECT ON TABLES TO deckhand;
ALTER DEFAULT PRIVILEGES FOR ROLE atlas REVOKE EXECUTE ON FUNCTIONS FROM PUBLIC;
ALTER DEFAULT PRIVILEGES FOR ROLE "Harbour Office" GRANT USAGE ON SEQUENCES TO deckhand WITH GRANT OPTION;
CREATE PUBLICATION all_of_it FOR ALL TABLES;
CREATE TABLE ops.plain (id int PRIMARY KEY, a text, b text);
CREATE TABLE ops.second (id int PRIMARY KEY);
CREATE PUBLICATION chosen FOR TABLE ops.plain (id, a) WHERE (id > 5), TABLE ops.second WITH (publish = 'insert, update', publish_via_partition_root = true); -- since 15
CREATE PUBLICATION chosen FOR TABLE ops.plain, ops.second WITH (publish = 'insert, update'); -- until 14
CREATE PUBLICATION whole_schema FOR TABLES IN SCHEMA ops; -- since 15
COMMENT ON PUBLICATION chosen IS 'for the islands';
CREATE SUBSCRIPTION from_mainland CONNECTION 'host=nowhere.example dbname=x password=hush' PUBLICATION one, "Two" WITH (connect = false, slot_name = 'slot_a', synchronous_commit = 'off', binary = true); -- since 14
CREATE SUBSCRIPTION from_mainland CONNECTION 'host=nowhere.example dbname=x password=hush' PUBLICATION one, "Two" WITH (connect = false, slot_name = 'slot_a', synchronous_commit = 'off'); -- until 13
CREATE FUNCTION ops.guard() RETURNS event_trigger LANGUAGE plpgsql AS $$BEGIN NULL; END$$;
CREATE EVENT TRIGGER watch_tables ON ddl_command_end WHEN TAG IN ('CREATE TABLE', 'DROP TABLE') EXECUTE FUNCTION ops.guard();
CREATE EVENT TRIGGER watch_drops ON sql_drop EXECUTE FUNCTION ops.guard();
ALTER EVENT TRIGGER watch_drops DISABLE;
COMMENT ON EVENT TRIGGER watch_tables IS 'who does that';
CREATE LANGUAGE plsecond HANDLER plpgsql_call_handler INLINE plpgsql_inline_handler VALIDATOR plpgsql_validator;
COMMENT ON LANGUAGE plsecond IS 'once more';
CREATE FUNCTION ops.second_tongue() RETURNS int LANGUAGE plsecond AS $$BEGIN RETURN 1; END$$;
CREATE ACCESS METHOD heap_again TYPE TABLE HANDLER heap_tableam_handler;
CREATE TABLE ops.on_heap_again (id int) USING heap_again;
CREATE FUNCTION ops.in_sql(internal) RETURNS internal LANGUAGE internal IMMUTABLE AS 'varchar_support';
CREATE TRANSFORM FOR int LANGUAGE plsecond (FROM SQL WITH FUNCTION ops.in_sql(internal));
-- A function that takes the rows of a view, which a second form of the view calls.
CREATE VIEW ops.circle AS SELECT no, ''::text AS label FROM ops.berth;
CREATE FUNCTION ops.label(ops.circle) RETURNS text LANGUAGE sql AS 'SELECT $1.no::text';
CREATE OR REPLACE VIEW ops.circle AS SELECT b.no, ops.label(ROW(b.no, '')::ops.circle) AS label FROM ops.berth b;
-- A default that calls a function which takes the table.
CREATE TABLE ops.round (id int, n int);
CREATE FUNCTION ops.next_of(ops.round) RETURNS int LANGUAGE sql IMMUTABLE AS 'SELECT 1';
ALTER TABLE ops.round ALTER COLUMN n SET DEFAULT ops.next_of(NULL), ADD CONSTRAINT round_ok CHECK (ops.next_of(ops.round.*) > 0);
