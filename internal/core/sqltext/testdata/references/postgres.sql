-- table ops.berth: no name depth harbour_id
-- table ops.mooring: id berth_no vessel length moored_at
-- table ops.harbour: id code title
-- table ops.log: id what at
-- table public.tide: id height at
-- routine ops.charge
-- routine ops.note
-- routine public.depth_of
-- sequence ops.berth_no_seq
-- sequence public.tide_id_seq
-- type ops.state
-- type ops.berth
-- path public
---
SELECT b.no/*r ops.berth.no*/, name/*r ops.berth.name*/ AS called FROM ops.berth/*r ops.berth*/ b WHERE b.depth/*r ops.berth.depth*/ > 3 -- b.harbour_id
---
SELECT */*r public.tide.id; r public.tide.height; r public.tide.at*/ FROM tide/*r public.tide*/
---
SELECT t.*/*r public.tide.id; r public.tide.height; r public.tide.at*/ FROM tide/*r public.tide*/ t, ops.harbour/*r ops.harbour*/ h
---
SELECT 'ops.berth.no', "no"/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ /* FROM tide */
---
WITH deep AS (SELECT no/*r ops.berth.no*/ AS n, depth/*r ops.berth.depth*/ FROM ops.berth/*r ops.berth*/)
SELECT n, deep.depth FROM deep WHERE n > (SELECT max(berth_no/*r ops.mooring.berth_no*/) FROM ops.mooring/*r ops.mooring*/ WHERE length/*r ops.mooring.length*/ < deep.depth)
---
WITH RECURSIVE up(n, level) AS (SELECT no/*r ops.berth.no*/, 1 FROM ops.berth/*r ops.berth*/ UNION ALL SELECT m.berth_no/*r ops.mooring.berth_no*/, level + 1 FROM up JOIN ops.mooring/*r ops.mooring*/ m ON m.id/*r ops.mooring.id*/ = up.n)
SELECT n FROM up ORDER BY level
---
WITH tide AS (SELECT height/*r public.tide.height*/ FROM tide/*r public.tide*/) SELECT height FROM tide
---
SELECT x.h FROM (SELECT height/*r public.tide.height*/ AS h FROM tide/*r public.tide*/) x JOIN ops.harbour/*r ops.harbour*/ USING (id/*r ops.harbour.id*/)
---
SELECT code/*r ops.harbour.code*/, no FROM ops.harbour/*r ops.harbour*/ h LEFT JOIN LATERAL (SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ WHERE harbour_id/*r ops.berth.harbour_id*/ = h.id/*r ops.harbour.id*/ LIMIT 1) b ON true
---
SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ UNION SELECT id/*r ops.harbour.id*/ FROM ops.harbour/*r ops.harbour*/ ORDER BY no
---
SELECT sum(length/*r ops.mooring.length*/) OVER (PARTITION BY berth_no/*r ops.mooring.berth_no*/ ORDER BY moored_at/*r ops.mooring.moored_at*/ ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW) FROM ops.mooring/*r ops.mooring*/
---
SELECT ops.charge/*c ops.charge*/(no/*r ops.berth.no*/, 'x'), depth_of/*c public.depth_of*/(3), abs(depth/*r ops.berth.depth*/) FROM ops.berth/*r ops.berth*/
---
SELECT 'open'::ops.state/*t ops.state*/, CAST(name/*r ops.berth.name*/ AS ops.state/*t ops.state*/), NULL::ops.state/*t ops.state*/[] FROM ops.berth/*r ops.berth*/
---
SELECT nextval('ops.berth_no_seq'/*n ops.berth_no_seq*/), currval('tide_id_seq'/*n public.tide_id_seq*/::regclass), 'ops.berth'/*r ops.berth*/::regclass
---
SELECT count(*) FROM ops.berth/*r ops.berth*/ WHERE EXISTS (SELECT 1 FROM ops.mooring/*r ops.mooring*/ m WHERE m.berth_no/*r ops.mooring.berth_no*/ = no/*r ops.berth.no*/)
---
INSERT INTO ops.log/*w ops.log*/ (what/*w ops.log.what*/, at/*w ops.log.at*/) SELECT name/*r ops.berth.name*/, now() FROM ops.berth/*r ops.berth*/ RETURNING id/*r ops.log.id*/
---
INSERT INTO ops.log/*w ops.log; w ops.log.id; w ops.log.what; w ops.log.at*/ VALUES (1, 'x', now())
---
INSERT INTO ops.harbour/*w ops.harbour*/ AS h (id/*w ops.harbour.id*/, code/*w ops.harbour.code*/) VALUES (1, 'SK') ON CONFLICT (id/*r ops.harbour.id*/) DO UPDATE SET code/*w ops.harbour.code*/ = excluded.code/*r ops.harbour.code*/ || h.code/*r ops.harbour.code*/ WHERE h.title/*r ops.harbour.title*/ IS NULL
---
UPDATE ops.berth/*w ops.berth*/ b SET depth/*w ops.berth.depth*/ = depth/*r ops.berth.depth*/ + t.height/*r public.tide.height*/, (name/*w ops.berth.name*/, no/*w ops.berth.no*/) = ('x', 1) FROM tide/*r public.tide*/ t WHERE t.id/*r public.tide.id*/ = b.no/*r ops.berth.no*/
---
DELETE FROM ops.mooring/*w ops.mooring*/ m USING ops.berth/*r ops.berth*/ b WHERE m.berth_no/*r ops.mooring.berth_no*/ = b.no/*r ops.berth.no*/ RETURNING m.vessel/*r ops.mooring.vessel*/
---
WITH gone AS (DELETE FROM ops.mooring/*w ops.mooring*/ WHERE length/*r ops.mooring.length*/ > 9 RETURNING berth_no/*r ops.mooring.berth_no*/ AS n) UPDATE ops.berth/*w ops.berth*/ SET name/*w ops.berth.name*/ = '' WHERE no/*r ops.berth.no*/ IN (SELECT n FROM gone)
---
MERGE INTO ops.berth/*w ops.berth*/ b USING ops.mooring/*r ops.mooring*/ m ON m.berth_no/*r ops.mooring.berth_no*/ = b.no/*r ops.berth.no*/
WHEN MATCHED AND m.length/*r ops.mooring.length*/ > 3 THEN UPDATE SET depth/*w ops.berth.depth*/ = m.length/*r ops.mooring.length*/
WHEN NOT MATCHED THEN INSERT (no/*w ops.berth.no*/, name/*w ops.berth.name*/) VALUES (m.id/*r ops.mooring.id*/, m.vessel/*r ops.mooring.vessel*/)
---
-- parameters harbour
DECLARE
    deepest ops.berth.depth/*t ops.berth; t ops.berth.depth*/%TYPE := 0;
    row ops.berth/*t ops.berth*/%ROWTYPE;
    found boolean;
    c CURSOR (least int) FOR SELECT vessel/*r ops.mooring.vessel*/ FROM ops.mooring/*r ops.mooring*/ WHERE length/*r ops.mooring.length*/ > least;
BEGIN
    SELECT max(depth/*r ops.berth.depth*/) INTO deepest FROM ops.berth/*r ops.berth*/ WHERE harbour_id/*r ops.berth.harbour_id*/ = harbour;
    IF deepest IS NULL THEN
        RAISE EXCEPTION 'no berth in %', (SELECT code/*r ops.harbour.code*/ FROM ops.harbour/*r ops.harbour*/ WHERE id/*r ops.harbour.id*/ = harbour) USING HINT = 'name one';
    ELSIF deepest > 10 THEN
        PERFORM ops.note/*c ops.note*/(deepest) FROM tide/*r public.tide*/ WHERE height/*r public.tide.height*/ > 1;
    END IF;
    FOR row IN SELECT */*r ops.berth.no; r ops.berth.name; r ops.berth.depth; r ops.berth.harbour_id*/ FROM ops.berth/*r ops.berth*/ LOOP
        found := row.depth/*r ops.berth.depth*/ > deepest;
        UPDATE ops.log/*w ops.log*/ SET what/*w ops.log.what*/ = row.name/*r ops.berth.name*/ WHERE id/*r ops.log.id*/ = row.no/*r ops.berth.no*/;
    END LOOP;
    RETURN;
EXCEPTION WHEN unique_violation OR others THEN
    INSERT INTO ops.log/*w ops.log*/ (what/*w ops.log.what*/) VALUES (SQLERRM);
END
---
-- trigger ops.berth
BEGIN
    IF NEW.depth/*r ops.berth.depth*/ < OLD.depth/*r ops.berth.depth*/ THEN
        NEW.name/*w ops.berth.name*/ := upper(NEW.name/*r ops.berth.name*/);
    END IF;
    INSERT INTO ops.log/*w ops.log*/ (what/*w ops.log.what*/) VALUES (NEW.no/*r ops.berth.no*/::text);
    RETURN NEW;
END
---
-- trigger ops.berth ops.mooring
BEGIN
    IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
    PERFORM 1 FROM ops.harbour/*r ops.harbour*/ WHERE id/*r ops.harbour.id*/ = NEW.harbour_id/*r ops.berth.harbour_id*/;
    PERFORM NEW.length/*r ops.mooring.length*/;
    RETURN NEW;
END
---
BEGIN
    EXECUTE 'UPDATE ops.berth/*~w ops.berth*/ SET depth/*~w ops.berth.depth*/ = 0';
    EXECUTE 'DELETE FROM ops.mooring/*~w ops.mooring*/ WHERE id/*~r ops.mooring.id*/ = $1' USING 3;
END
---
DECLARE t text; n int; BEGIN
    EXECUTE t/*?*/;
    EXECUTE format('DROP TABLE %I', t)/*?*/;
    EXECUTE 'SELECT count(*) FROM ' || quote_ident(t)/*?*/ INTO n;
END
---
BEGIN
    RETURN QUERY SELECT id/*r public.tide.id*/, height/*r public.tide.height*/ FROM tide/*r public.tide*/;
    RETURN QUERY EXECUTE 'SELECT id/*~r public.tide.id*/ FROM tide/*~r public.tide*/';
END
---
DECLARE r record; BEGIN
    FOR r IN SELECT no/*r ops.berth.no*/, name/*r ops.berth.name*/ AS called FROM ops.berth/*r ops.berth*/ ORDER BY called LOOP
        INSERT INTO ops.log/*w ops.log*/ (what/*w ops.log.what*/) VALUES (r.called || r.no);
        CONTINUE WHEN r.no > 3;
        EXIT;
    END LOOP;
END
---
DECLARE depth int; BEGIN
    CREATE TEMP TABLE tide AS SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/;
    INSERT INTO tide VALUES (1);
    SELECT no FROM tide INTO depth;
END
---
DECLARE x int := (SELECT count(*) FROM ops.log/*r ops.log*/); BEGIN
    x := max(height/*r public.tide.height*/) FROM tide/*r public.tide*/ WHERE id/*r public.tide.id*/ > 0;
    CASE x WHEN 1 THEN PERFORM ops.charge/*c ops.charge*/(x); ELSE NULL; END CASE;
    WHILE x < (SELECT max(no/*r ops.berth.no*/) FROM ops.berth/*r ops.berth*/) LOOP x := x + 1; END LOOP;
    FOR i IN REVERSE 10..1 LOOP CALL ops.note/*c ops.note*/(i); END LOOP;
    FOREACH x IN ARRAY ARRAY[1, 2] LOOP x := x; END LOOP;
END
---
DECLARE c refcursor; v text; BEGIN
    OPEN c FOR SELECT vessel/*r ops.mooring.vessel*/ FROM ops.mooring/*r ops.mooring*/;
    FETCH NEXT FROM c INTO v;
    CLOSE c;
    TRUNCATE TABLE ops.log/*w ops.log*/;
    LOCK TABLE ops.berth/*r ops.berth*/ IN EXCLUSIVE MODE;
END
---
<<outer>> DECLARE n int; BEGIN
    <<inner>> LOOP EXIT inner WHEN n > 1; END LOOP inner;
    BEGIN SELECT code/*r ops.harbour.code*/ INTO STRICT n FROM ops.harbour/*r ops.harbour*/; EXCEPTION WHEN no_data_found THEN n := 0; END;
END outer
---
SELECT (SELECT h.title/*r ops.harbour.title*/ FROM ops.harbour/*r ops.harbour*/ h WHERE h.id/*r ops.harbour.id*/ = b.harbour_id/*r ops.berth.harbour_id*/), CASE WHEN depth/*r ops.berth.depth*/ > 3 THEN 'deep' ELSE name/*r ops.berth.name*/ END FROM ops.berth/*r ops.berth*/ b GROUP BY name/*r ops.berth.name*/ HAVING max(depth/*r ops.berth.depth*/) > 1
---
SELECT extract(year FROM moored_at/*r ops.mooring.moored_at*/), substring(vessel/*r ops.mooring.vessel*/ FROM 2 FOR 3), trim(both 'x' FROM vessel/*r ops.mooring.vessel*/), position('a' IN vessel/*r ops.mooring.vessel*/), moored_at/*r ops.mooring.moored_at*/ AT TIME ZONE 'UTC' + interval '1 day' FROM ops.mooring/*r ops.mooring*/
---
SELECT b FROM ops.berth/*r ops.berth*/ b
---
SELECT */*r ops.log.id; r ops.log.what; r ops.log.at*/ FROM (VALUES (1, 'a'), (2, 'b')) v(id, what) JOIN ops.log/*r ops.log*/ l ON l.id/*r ops.log.id*/ = v.id WHERE v.what = l.what/*r ops.log.what*/
---
SELECT array_agg(DISTINCT name/*r ops.berth.name*/ ORDER BY name/*r ops.berth.name*/ DESC NULLS LAST) FILTER (WHERE depth/*r ops.berth.depth*/ > 1), percentile_cont(0.5) WITHIN GROUP (ORDER BY depth/*r ops.berth.depth*/) FROM ops.berth/*r ops.berth*/
---
SELECT no/*r ops.berth.no*/ FROM ONLY ops.berth/*r ops.berth*/ TABLESAMPLE system (10) WHERE (depth/*r ops.berth.depth*/, name/*r ops.berth.name*/) IS DISTINCT FROM (1, 'x') FOR UPDATE OF berth SKIP LOCKED
---
SELECT g.n, u FROM generate_series(1, 3) AS g(n), unnest(ARRAY[1, 2]) u WHERE g.n IN (SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/)
---
SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ NATURAL JOIN gone/*! gone*/
---
-- row ops.berth
no/*r ops.berth.no*/ > 0 AND (depth/*r ops.berth.depth*/ IS NULL OR ops.charge/*c ops.charge*/(depth/*r ops.berth.depth*/) < 3)
---
SELECT (x.b).depth FROM (SELECT b FROM ops.berth/*r ops.berth*/ b) x
---
SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ WHERE depth/*r ops.berth.depth*/ NOT BETWEEN 1 AND harbour_id/*r ops.berth.harbour_id*/ AND name/*r ops.berth.name*/ NOT LIKE 'x' ESCAPE 'y' AND no/*r ops.berth.no*/ NOT IN (1, depth/*r ops.berth.depth*/) OR name/*r ops.berth.name*/ NOT SIMILAR TO 'z' AND no/*r ops.berth.no*/ NOTNULL
---
TABLE public.tide/*r public.tide.id; r public.tide.height; r public.tide.at; r public.tide*/
---
BEGIN ATOMIC INSERT INTO ops.log/*w ops.log*/ (id/*w ops.log.id*/) VALUES (1); SELECT id/*r ops.log.id*/ FROM ops.log/*r ops.log*/; END
