CREATE SCHEMA ops;
CREATE TABLE ops.harbour (id int PRIMARY KEY, code text NOT NULL, opened date);
CREATE TABLE ops.berth (id int PRIMARY KEY, harbour_id int REFERENCES ops.harbour (id), label text, depth_m numeric, CHECK (depth_m > 0));
CREATE TABLE ops.mooring (id serial PRIMARY KEY, berth_id int REFERENCES ops.berth (id), vessel text, draught_m numeric, note text);
CREATE TABLE ops.log (at int, what text);
INSERT INTO ops.harbour VALUES (1, 'HOL', '2020-01-01'), (2, 'SKR', NULL);
INSERT INTO ops.berth VALUES (1, 1, 'north', 7), (2, 1, 'south', 5), (3, 2, 'inner', 3);
INSERT INTO ops.mooring (berth_id, vessel, draught_m) VALUES (1, 'Tern', 4), (2, 'Gull', 5.5), (3, 'Auk', 2);
CREATE VIEW ops.deep AS SELECT b.*, h.code FROM ops.berth b JOIN ops.harbour h ON h.id = b.harbour_id WHERE b.depth_m > 4;

CREATE FUNCTION ops.berths_of(harbour int) RETURNS SETOF ops.berth LANGUAGE sql STABLE AS $$ SELECT * FROM ops.berth WHERE harbour_id = harbour ORDER BY id $$;
CREATE FUNCTION ops.room(b ops.berth) RETURNS numeric LANGUAGE sql STABLE AS $$ SELECT b.depth_m * 2 $$;
CREATE FUNCTION ops.noted() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE' AND NEW.draught_m IS DISTINCT FROM OLD.draught_m THEN
        INSERT INTO ops.log (at, what) VALUES (NEW.id, OLD.vessel || ' ' || NEW.draught_m);
    END IF;
    NEW.note := coalesce(NEW.note, '') || '!';
    RETURN NEW;
END $$;
CREATE TRIGGER noted BEFORE UPDATE ON ops.mooring FOR EACH ROW EXECUTE FUNCTION ops.noted();

CREATE FUNCTION ops.probe_derived() RETURNS text LANGUAGE sql AS $$
    SELECT string_agg(d.label || d.depth_m || d.half, ',' ORDER BY d.id) FROM (SELECT *, depth_m / 2 AS half FROM ops.berth) d WHERE d.depth_m > 2 $$;
CREATE FUNCTION ops.probe_named() RETURNS text LANGUAGE sql AS $$
    WITH x AS (SELECT id, depth_m, label FROM ops.berth), y(a, b) AS (SELECT id, depth_m FROM ops.berth)
    SELECT string_agg(x.label || x.depth_m || y.b, ',' ORDER BY x.id) FROM x JOIN y ON y.a = x.id $$;
CREATE FUNCTION ops.probe_qualified() RETURNS text LANGUAGE sql AS $$
    SELECT string_agg(berth.label || (SELECT count(*) FROM ops.mooring WHERE berth_id = berth.id AND mooring.draught_m < berth.depth_m), ',' ORDER BY ops.berth.id) FROM ops.berth $$;
CREATE FUNCTION ops.probe_loop() RETURNS text LANGUAGE plpgsql AS $$
DECLARE
    r record; one ops.berth%ROWTYPE; deepest ops.berth.depth_m%TYPE; said text := '';
    c CURSOR FOR SELECT * FROM ops.mooring ORDER BY id;
BEGIN
    FOR r IN SELECT * FROM ops.berth ORDER BY id LOOP
        said := said || r.label || r.depth_m;
    END LOOP;
    FOR r IN SELECT label, depth_m FROM ops.berth ORDER BY id LOOP
        said := said || r.label || r.depth_m;
    END LOOP;
    FOR m IN c LOOP said := said || m.vessel || m.draught_m; END LOOP;
    SELECT * INTO one FROM ops.berth b WHERE b.id = 2;
    SELECT max(depth_m) INTO deepest FROM ops.berth;
    RETURN said || one.label || one.depth_m || deepest || ops.room(one);
END $$;
CREATE FUNCTION ops.probe_writes() RETURNS text LANGUAGE plpgsql AS $$
DECLARE said text;
BEGIN
    INSERT INTO ops.berth (id, harbour_id, label, depth_m) VALUES (9, 2, 'outer', 8) ON CONFLICT (id) DO UPDATE SET depth_m = excluded.depth_m + ops.berth.depth_m, label = 'again';
    UPDATE ops.mooring m SET draught_m = m.draught_m + b.depth_m FROM ops.berth b WHERE b.id = m.berth_id AND b.depth_m > 6 RETURNING vessel || draught_m INTO said;
    DELETE FROM ops.mooring USING ops.berth WHERE mooring.berth_id = berth.id AND berth.depth_m < 4;
    RETURN said || (SELECT string_agg(vessel || draught_m || coalesce(note, ''), ',' ORDER BY id) FROM ops.mooring) || (SELECT string_agg(what, ',' ORDER BY at) FROM ops.log)
        || (SELECT string_agg(label || depth_m, ',' ORDER BY id) FROM ops.berth);
END $$;
CREATE FUNCTION ops.probe_rows() RETURNS text LANGUAGE sql AS $$
    SELECT string_agg(f.label || f.depth_m, ',' ORDER BY f.id) FROM ops.berths_of(1) f $$;
CREATE FUNCTION ops.probe_order() RETURNS text LANGUAGE plpgsql AS $$
DECLARE said text := ''; r record;
BEGIN
    FOR r IN SELECT depth_m, count(*) AS n FROM ops.berth GROUP BY depth_m HAVING depth_m > 1 ORDER BY depth_m LOOP said := said || r.depth_m || r.n; END LOOP;
    FOR r IN SELECT label, depth_m FROM ops.berth UNION ALL SELECT vessel, draught_m FROM ops.mooring ORDER BY 1, 2 LOOP said := said || r.label || r.depth_m; END LOOP;
    RETURN said || to_regclass('ops.berth') IS NOT NULL || (SELECT count(*) FROM ops.deep WHERE depth_m > 4 AND code = 'HOL') || (SELECT nextval('ops.mooring_id_seq'));
END $$;
CREATE PROCEDURE ops.deepen(by numeric) LANGUAGE sql AS $$ UPDATE ops.berth SET depth_m = depth_m + by $$;
CREATE FUNCTION ops.probe_calls() RETURNS text LANGUAGE plpgsql AS $$ BEGIN CALL ops.deepen(1); RETURN (SELECT sum(berth.depth_m) FROM ops.berth); END $$;
CREATE FUNCTION ops.probe_string() RETURNS text LANGUAGE sql AS $$ SELECT count(*)::text FROM pg_attribute WHERE attrelid = 'ops.mooring'::regclass AND attnum > 0 $$;
CREATE FUNCTION ops.unseen(t text) RETURNS int LANGUAGE plpgsql AS $$ DECLARE n int; BEGIN EXECUTE 'SELECT count(*) FROM ops.' || t INTO n; RETURN n; END $$;
CREATE FUNCTION ops.joined() RETURNS bigint LANGUAGE sql AS $$ SELECT count(*) FROM ops.berth JOIN (SELECT 7 AS depth_m) x USING (depth_m) $$;
CREATE FUNCTION ops.taken(new_name numeric) RETURNS bigint LANGUAGE plpgsql AS $$ BEGIN RETURN (SELECT count(*) FROM ops.berth WHERE depth_m > new_name); END $$;
