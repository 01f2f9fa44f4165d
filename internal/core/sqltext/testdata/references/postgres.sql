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
---
-- parameters b:ops.berth
SELECT b.depth/*r ops.berth.depth*/ * 2
---
DECLARE n int;
BEGIN
    EXECUTE 'SELECT count(*) FROM ops.' || quote_ident(t)/*?*/ INTO n;
END
---
SELECT b.x/*r ops.berth.no*/, b.y/*r ops.berth.name*/, b.depth/*r ops.berth.depth*/ FROM ops.berth/*r ops.berth*/ AS b(x, y)
---
-- parameters harbour
BEGIN
    RETURN QUERY WITH RECURSIVE chain(no, level) AS (
        SELECT b.no/*r ops.berth.no*/, 1 FROM ops.berth/*r ops.berth*/ b WHERE b.harbour_id/*r ops.berth.harbour_id*/ = harbour
        UNION ALL
        SELECT m.berth_no/*r ops.mooring.berth_no*/, c.level + 1 FROM ops.mooring/*r ops.mooring*/ m JOIN chain c ON c.no = m.berth_no/*r ops.mooring.berth_no*/ WHERE c.level < 9)
    SELECT c.no, max(c.level) FROM chain c GROUP BY c.no;
    IF NOT FOUND THEN RETURN; END IF;
END
---
DECLARE
    c refcursor; v text; n int;
BEGIN
    OPEN c FOR SELECT vessel/*r ops.mooring.vessel*/, length/*r ops.mooring.length*/ FROM ops.mooring/*r ops.mooring*/ WHERE length/*r ops.mooring.length*/ > 3;
    LOOP
        FETCH NEXT FROM c INTO v, n;
        EXIT WHEN NOT FOUND;
        UPDATE ops.log/*w ops.log*/ SET what/*w ops.log.what*/ = v WHERE CURRENT OF c;
    END LOOP;
    CLOSE c;
    MOVE FORWARD 2 FROM c;
    OPEN c FOR EXECUTE 'SELECT code/*~r ops.harbour.code*/ FROM ops.harbour/*~r ops.harbour*/';
END
---
DECLARE total numeric := (SELECT sum(length/*r ops.mooring.length*/) FROM ops.mooring/*r ops.mooring*/);
BEGIN
    CASE total WHEN 1, 2 THEN PERFORM ops.note/*c ops.note*/(1);
    WHEN 3 THEN NULL;
    ELSE
        INSERT INTO ops.log/*w ops.log; w ops.log.id; w ops.log.what; w ops.log.at*/ SELECT id/*r ops.mooring.id*/, vessel/*r ops.mooring.vessel*/, now() FROM ops.mooring/*r ops.mooring*/ WHERE length/*r ops.mooring.length*/ = total;
    END CASE;
    GET DIAGNOSTICS total = ROW_COUNT;
    ASSERT (SELECT count(*) FROM ops.berth/*r ops.berth*/) > 0, 'no berth';
END
---
<<outer>>
DECLARE name text := 'x';
BEGIN
    <<inner>>
    DECLARE depth int;
    BEGIN
        SELECT b.depth/*r ops.berth.depth*/ INTO STRICT inner.depth FROM ops.berth/*r ops.berth*/ b WHERE b.name/*r ops.berth.name*/ = outer.name;
    END;
    WHILE EXISTS (SELECT FROM ops.log/*r ops.log*/ l WHERE l.what/*r ops.log.what*/ = name) LOOP
        DELETE FROM ops.log/*w ops.log*/ WHERE what/*r ops.log.what*/ = name;
    END LOOP;
END
---
-- trigger ops.berth
BEGIN
    IF TG_OP = 'DELETE' THEN
        DELETE FROM ops.mooring/*w ops.mooring*/ WHERE berth_no/*r ops.mooring.berth_no*/ = OLD.no/*r ops.berth.no*/;
        RETURN OLD;
    ELSIF (NEW.depth/*r ops.berth.depth*/, NEW.name/*r ops.berth.name*/) IS DISTINCT FROM (OLD.depth/*r ops.berth.depth*/, OLD.name/*r ops.berth.name*/) THEN
        NEW.depth/*w ops.berth.depth*/ := coalesce(NEW.depth/*r ops.berth.depth*/, (SELECT max(b.depth/*r ops.berth.depth*/) FROM ops.berth/*r ops.berth*/ b WHERE b.harbour_id/*r ops.berth.harbour_id*/ = NEW.harbour_id/*r ops.berth.harbour_id*/));
        INSERT INTO ops.log/*w ops.log*/ (what/*w ops.log.what*/) VALUES (format('%s %s', TG_TABLE_NAME, to_jsonb(NEW)));
        PERFORM pg_notify('berth', NEW.no/*r ops.berth.no*/::text);
    END IF;
    RETURN NEW;
END
---
-- rows new_rows=ops.berth
-- rows old_rows=ops.berth
BEGIN
    INSERT INTO ops.log/*w ops.log*/ (id/*w ops.log.id*/, what/*w ops.log.what*/) SELECT n.no/*r ops.berth.no*/, n.name/*r ops.berth.name*/ FROM new_rows/*r ops.berth*/ n JOIN old_rows/*r ops.berth*/ o USING (no/*r ops.berth.no*/);
    RETURN NULL;
END
---
SELECT b.name/*r ops.berth.name*/, s.total, rank() OVER w, sum(s.total) FILTER (WHERE b.depth/*r ops.berth.depth*/ > 2) OVER (PARTITION BY b.harbour_id/*r ops.berth.harbour_id*/ ORDER BY b.no/*r ops.berth.no*/ ROWS BETWEEN 1 PRECEDING AND CURRENT ROW)
FROM ops.berth/*r ops.berth*/ b LEFT JOIN LATERAL (SELECT sum(m.length/*r ops.mooring.length*/) AS total FROM ops.mooring/*r ops.mooring*/ m WHERE m.berth_no/*r ops.mooring.berth_no*/ = b.no/*r ops.berth.no*/) s ON true
WINDOW w AS (PARTITION BY b.harbour_id/*r ops.berth.harbour_id*/ ORDER BY s.total DESC)
---
SELECT h.code/*r ops.harbour.code*/, array(SELECT b.name/*r ops.berth.name*/ FROM ops.berth/*r ops.berth*/ b WHERE b.harbour_id/*r ops.berth.harbour_id*/ = h.id/*r ops.harbour.id*/ ORDER BY b.depth/*r ops.berth.depth*/), (SELECT row_to_json(x) FROM (SELECT b.no/*r ops.berth.no*/, b.depth/*r ops.berth.depth*/ FROM ops.berth/*r ops.berth*/ b WHERE b.harbour_id/*r ops.berth.harbour_id*/ = h.id/*r ops.harbour.id*/) x)
FROM ops.harbour/*r ops.harbour*/ h WHERE h.id/*r ops.harbour.id*/ = ANY (SELECT harbour_id/*r ops.berth.harbour_id*/ FROM ops.berth/*r ops.berth*/) AND h.code/*r ops.harbour.code*/ NOT IN (VALUES ('a'), ('b'))
---
INSERT INTO ops.berth/*w ops.berth*/ AS b (no/*w ops.berth.no*/, name/*w ops.berth.name*/) SELECT id/*r ops.harbour.id*/, code/*r ops.harbour.code*/ FROM ops.harbour/*r ops.harbour*/ ON CONFLICT (no/*r ops.berth.no*/) WHERE depth/*r ops.berth.depth*/ > 1 DO UPDATE SET name/*w ops.berth.name*/ = excluded.name/*r ops.berth.name*/ || b.name/*r ops.berth.name*/, depth/*w ops.berth.depth*/ = DEFAULT WHERE b.depth/*r ops.berth.depth*/ IS NULL RETURNING b.no/*r ops.berth.no*/, xmax = 0
---
UPDATE ops.berth/*w ops.berth*/ b SET (name/*w ops.berth.name*/, depth/*w ops.berth.depth*/) = (SELECT h.title/*r ops.harbour.title*/, h.id/*r ops.harbour.id*/ FROM ops.harbour/*r ops.harbour*/ h WHERE h.id/*r ops.harbour.id*/ = b.harbour_id/*r ops.berth.harbour_id*/), harbour_id/*w ops.berth.harbour_id*/ = harbour_id/*r ops.berth.harbour_id*/ + 1 WHERE b.no/*r ops.berth.no*/ IN (SELECT berth_no/*r ops.mooring.berth_no*/ FROM ops.mooring/*r ops.mooring*/) RETURNING */*r ops.berth.no; r ops.berth.name; r ops.berth.depth; r ops.berth.harbour_id*/
---
WITH gone AS (DELETE FROM ops.mooring/*w ops.mooring*/ m USING ops.berth/*r ops.berth*/ b WHERE m.berth_no/*r ops.mooring.berth_no*/ = b.no/*r ops.berth.no*/ AND b.depth/*r ops.berth.depth*/ < 1 RETURNING m.id/*r ops.mooring.id*/, m.vessel/*r ops.mooring.vessel*/), kept AS MATERIALIZED (SELECT id FROM gone)
INSERT INTO ops.log/*w ops.log*/ (id/*w ops.log.id*/, what/*w ops.log.what*/) SELECT g.id, g.vessel FROM gone g WHERE EXISTS (SELECT 1 FROM kept WHERE kept.id = g.id)
---
MERGE INTO ops.berth/*w ops.berth*/ b USING ops.harbour/*r ops.harbour*/ h ON h.id/*r ops.harbour.id*/ = b.no/*r ops.berth.no*/ WHEN MATCHED AND b.depth/*r ops.berth.depth*/ > 1 THEN UPDATE SET name/*w ops.berth.name*/ = h.title/*r ops.harbour.title*/ WHEN MATCHED THEN DELETE WHEN NOT MATCHED THEN INSERT (no/*w ops.berth.no*/, name/*w ops.berth.name*/) VALUES (h.id/*r ops.harbour.id*/, h.code/*r ops.harbour.code*/)
---
SELECT count(*) FROM ops.berth/*r ops.berth*/ TABLESAMPLE system (10) REPEATABLE (1), generate_series(1, 3) AS g(n), unnest(ARRAY[1, 2]) WITH ORDINALITY AS u(x, i), ROWS FROM (ops.charge/*c ops.charge*/(1), ops.note/*c ops.note*/(2)) AS r(a, b) WHERE g.n = no/*r ops.berth.no*/ AND u.x = r.a
---
SELECT x.no, y.vessel FROM (ops.berth/*r ops.berth*/ b JOIN ops.mooring/*r ops.mooring*/ m ON b.no/*r ops.berth.no*/ = m.berth_no/*r ops.mooring.berth_no*/) AS x(no, a, b, c, d, e, vessel) CROSS JOIN LATERAL (SELECT x.vessel) y
---
SELECT (b).name/*r ops.berth.name*/, b IS NULL, ROW(b.*/*r ops.berth.no; r ops.berth.name; r ops.berth.depth; r ops.berth.harbour_id*/) = ROW(1), b::text FROM ops.berth/*r ops.berth*/ b
---
TABLE ops.log/*r ops.log; r ops.log.id; r ops.log.what; r ops.log.at*/ ORDER BY what/*r ops.log.what*/ LIMIT (SELECT count(*) FROM ops.harbour/*r ops.harbour*/)
---
SELECT extract(epoch FROM m.moored_at/*r ops.mooring.moored_at*/), substring(vessel/*r ops.mooring.vessel*/ FROM 1 FOR 3), trim(BOTH 'x' FROM vessel/*r ops.mooring.vessel*/), overlay(vessel/*r ops.mooring.vessel*/ PLACING 'a' FROM 1), position('a' IN vessel/*r ops.mooring.vessel*/), m.moored_at/*r ops.mooring.moored_at*/ AT TIME ZONE 'UTC', vessel/*r ops.mooring.vessel*/ COLLATE "C", CAST(length/*r ops.mooring.length*/ AS ops.state/*t ops.state*/), length/*r ops.mooring.length*/::ops.state/*t ops.state*/[], INTERVAL '1' DAY
FROM ops.mooring/*r ops.mooring*/ m
---
SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ WHERE harbour_id/*r ops.berth.harbour_id*/ = 1 UNION (SELECT id/*r ops.harbour.id*/ FROM ops.harbour/*r ops.harbour*/ EXCEPT ALL SELECT id/*r ops.log.id*/ FROM ops.log/*r ops.log*/ ORDER BY id) ORDER BY no
---
SELECT b.no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ b WHERE (b.no/*r ops.berth.no*/, b.name/*r ops.berth.name*/) = ANY (SELECT m.berth_no/*r ops.mooring.berth_no*/, m.vessel/*r ops.mooring.vessel*/ FROM ops.mooring/*r ops.mooring*/ m WHERE m.length/*r ops.mooring.length*/ BETWEEN SYMMETRIC b.depth/*r ops.berth.depth*/ AND b.no/*r ops.berth.no*/) OR b.name/*r ops.berth.name*/ SIMILAR TO '%a' ESCAPE '!' OR b.name/*r ops.berth.name*/ ~* 'x'
---
SELECT CASE b.name/*r ops.berth.name*/ WHEN 'a' THEN h.code/*r ops.harbour.code*/ WHEN (SELECT what/*r ops.log.what*/ FROM ops.log/*r ops.log*/ WHERE id/*r ops.log.id*/ = b.no/*r ops.berth.no*/) THEN h.title/*r ops.harbour.title*/ ELSE NULLIF(b.name/*r ops.berth.name*/, h.code/*r ops.harbour.code*/) END, GREATEST(b.depth/*r ops.berth.depth*/, h.id/*r ops.harbour.id*/), grouping(b.no/*r ops.berth.no*/) FROM ops.berth/*r ops.berth*/ b NATURAL JOIN ops.harbour/*r ops.harbour*/ h GROUP BY GROUPING SETS ((b.no/*r ops.berth.no*/, h.id/*r ops.harbour.id*/), CUBE (b.name/*r ops.berth.name*/), ())
---
-- parameters name depth
SELECT no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ WHERE name/*r ops.berth.name*/ = $1 AND berth.depth/*r ops.berth.depth*/ = depth/*r ops.berth.depth*/
---
BEGIN
    EXECUTE format('UPDATE ops.berth/*~w ops.berth*/ SET name/*~w ops.berth.name*/ = %L WHERE no/*~r ops.berth.no*/ = $1', 'x') USING 3;
    EXECUTE 'INSERT INTO ops.log/*~w ops.log*/ (what/*~w ops.log.what*/) VALUES (' || quote_literal('x') || ')';
    EXECUTE 'TRUNCATE ops.log/*~w ops.log*/';
    EXECUTE sql_of('x')/*?*/ INTO a;
END
---
COPY (SELECT no/*r ops.berth.no*/, name/*r ops.berth.name*/ FROM ops.berth/*r ops.berth*/) TO STDOUT
---
LOCK TABLE ops.berth/*r ops.berth*/, ops.log/*r ops.log*/ IN ACCESS EXCLUSIVE MODE
---
CREATE TEMP TABLE found ON COMMIT DROP AS SELECT no/*r ops.berth.no*/, name/*r ops.berth.name*/ AS called FROM ops.berth/*r ops.berth*/; INSERT INTO found SELECT id/*r ops.harbour.id*/, code/*r ops.harbour.code*/ FROM ops.harbour/*r ops.harbour*/; SELECT f.called, f.no FROM found f WHERE f.no > 1; DROP TABLE found
---
DECLARE r ops.mooring; a int[]; x int;
BEGIN
    FOREACH x IN ARRAY a LOOP
        SELECT */*r ops.mooring.id; r ops.mooring.berth_no; r ops.mooring.vessel; r ops.mooring.length; r ops.mooring.moored_at*/ INTO r FROM ops.mooring/*r ops.mooring*/ WHERE id/*r ops.mooring.id*/ = x;
        r.length/*r ops.mooring.length*/ := r.length/*r ops.mooring.length*/ + 1;
        UPDATE ops.mooring/*w ops.mooring*/ SET length/*w ops.mooring.length*/ = r.length/*r ops.mooring.length*/ WHERE id/*r ops.mooring.id*/ = r.id/*r ops.mooring.id*/;
        INSERT INTO ops.mooring/*w ops.mooring; w ops.mooring.id; w ops.mooring.berth_no; w ops.mooring.vessel; w ops.mooring.length; w ops.mooring.moored_at*/ VALUES (r.*);
    END LOOP;
    FOR i IN REVERSE 3..(SELECT max(no/*r ops.berth.no*/) FROM ops.berth/*r ops.berth*/) BY 2 LOOP
        CONTINUE WHEN i = 2;
    END LOOP;
    RETURN;
EXCEPTION
    WHEN SQLSTATE '23505' THEN INSERT INTO ops.log/*w ops.log*/ (what/*w ops.log.what*/) VALUES (SQLERRM);
    WHEN OTHERS THEN RAISE NOTICE '% %', r.vessel/*r ops.mooring.vessel*/, (SELECT count(*) FROM ops.log/*r ops.log*/);
END
---
SELECT currval('ops.berth_no_seq'/*n ops.berth_no_seq*/), setval('public.tide_id_seq'/*n public.tide_id_seq*/, (SELECT max(id/*r public.tide.id*/) FROM tide/*r public.tide*/)), nextval('tide_id_seq'/*n public.tide_id_seq*/::regclass), 'ops.berth'/*r ops.berth*/::regclass, to_regclass('ops.berth')
---
SELECT "t"."height"/*r public.tide.height*/ AS "Height", t.at/*r public.tide.at*/ FROM "tide"/*r public.tide*/ AS "t" WHERE "t".id/*r public.tide.id*/ = 1 -- t.gone
---
SELECT json_agg(json_build_object('no', b.no/*r ops.berth.no*/, 'all', b) ORDER BY b.name/*r ops.berth.name*/) FROM ops.berth/*r ops.berth*/ b HAVING max(b.depth/*r ops.berth.depth*/) > 1
---
SELECT DISTINCT ON (b.harbour_id/*r ops.berth.harbour_id*/, lower(b.name/*r ops.berth.name*/)) b.no/*r ops.berth.no*/ FROM ops.berth/*r ops.berth*/ b ORDER BY b.harbour_id/*r ops.berth.harbour_id*/, lower(b.name/*r ops.berth.name*/), b.depth/*r ops.berth.depth*/ DESC NULLS LAST FETCH FIRST 3 ROWS WITH TIES FOR UPDATE OF b SKIP LOCKED
---
SELECT count(*) FROM ops.gone/*! ops.gone*/ g WHERE g.x = 1
---
SELECT b.name/*r ops.berth.name*/ FROM ops.berth/*r ops.berth*/ b WHERE b.depth/*r ops.berth.depth*/ > ALL (SELECT t.height/*r public.tide.height*/ FROM tide/*r public.tide*/ t WHERE t.id/*r public.tide.id*/ = b.no/*r ops.berth.no*/) AND NOT EXISTS (SELECT */*r ops.log.id; r ops.log.what; r ops.log.at*/ FROM ops.log/*r ops.log*/ WHERE log.id/*r ops.log.id*/ = b.no/*r ops.berth.no*/ AND what/*r ops.log.what*/ LIKE name/*r ops.berth.name*/ || '%')
---
CALL ops.note/*c ops.note*/(harbour => (SELECT max(id/*r ops.harbour.id*/) FROM ops.harbour/*r ops.harbour*/), what := 'x')
---
-- row ops.berth
((depth/*r ops.berth.depth*/ > (0)::numeric) AND (ops.depth_ok(name/*r ops.berth.name*/) OR (harbour_id/*r ops.berth.harbour_id*/ = ANY (ARRAY[1, 2]))))
---
SELECT t.id/*r public.tide.id*/, x.k, x.v FROM tide/*r public.tide*/ t, jsonb_each('{}') AS x(k, v), xmltable('/a' PASSING t.height/*r public.tide.height*/ COLUMNS n int PATH 'n') AS xt, json_to_recordset('[]') AS j(no int, name text) WHERE xt.n = j.no AND j.name = t.at/*r public.tide.at*/::text

---
BEGIN
    ALTER TABLE ops.berth/*w ops.berth*/ DISABLE TRIGGER ALL;
    ANALYZE ops.log/*r ops.log*/;
    DROP TABLE IF EXISTS ops.mooring/*w ops.mooring*/, tide/*w public.tide*/;
    REFRESH MATERIALIZED VIEW CONCURRENTLY ops.harbour/*w ops.harbour*/;
END
---
-- parameters t v
BEGIN
    EXECUTE format('SELECT %2$I FROM %1$I.log/*~r ops.log*/ WHERE %2$I = %3$L', 'ops', 'what'/*~r ops.log.what*/, v);
END
---
-- parameters t v
BEGIN
    EXECUTE format('DELETE FROM ops.%I WHERE %I = %L', 'log'/*~w ops.log*/, 'what'/*~r ops.log.what*/, v);
    EXECUTE format('UPDATE ops.berth/*~w ops.berth*/ SET name/*~w ops.berth.name*/ = 1 WHERE %s', 'no/*~r ops.berth.no*/ = 3');
    EXECUTE 'INSERT INTO ' || quote_ident('ops') || '.log/*~w ops.log*/ (what/*~w ops.log.what*/) VALUES (' || quote_nullable(v) || ')';
    EXECUTE concat('SELECT no/*~r ops.berth.no*/ FROM ops.berth/*~r ops.berth*/ WHERE name/*~r ops.berth.name*/ = ''', v, '''');
END
---
-- parameters t v
BEGIN
    EXECUTE format('DROP TABLE %I', t)/*?*/;
    EXECUTE 'SELECT no/*~r ops.berth.no*/ FROM ops.berth/*~r ops.berth*/ b, ops.log_' || v || '_old x'/*?*/;
    EXECUTE 'SELECT 1 FROM "' || t || '" WHERE 1 = 1'/*?*/;
    EXECUTE format('SELECT 1 FROM %I', 'lo' || 'g')/*?*/;
    EXECUTE format(v, 'log')/*?*/;
END
---
DECLARE q text := 'SELECT no/*~r ops.berth.no*/ FROM ops.berth/*~r ops.berth*/ WHERE 1 = 1'; w text;
BEGIN
    IF a > 1 THEN q := q || ' AND name/*~r ops.berth.name*/ IS NULL'; END IF;
    EXECUTE q;
    w := format('DELETE FROM ops.%I', 'log'/*~w ops.log*/);
    EXECUTE w;
END
---
-- parameters given
DECLARE q text; r text; s text := '';
BEGIN
    q := 'DROP TABLE ' || given;
    EXECUTE q/*?*/;
    SELECT 'x' INTO r;
    EXECUTE r/*?*/;
    EXECUTE given/*?*/;
    s := 'TRUNCATE ops.log'/*~w ops.log*/ || given;
    EXECUTE s/*?*/;
    FOR x IN EXECUTE 'SELECT id/*~r ops.log.id*/ FROM ops.log/*~r ops.log*/' LOOP END LOOP;
END
---
BEGIN
    COPY ops.log/*w ops.log*/ (id/*w ops.log.id*/, what/*w ops.log.what*/) FROM '/tmp/x' WITH (FORMAT csv);
    COPY tide/*r public.tide; r public.tide.id; r public.tide.height; r public.tide.at*/ TO STDOUT;
    COPY ops.berth/*r ops.berth*/ (no/*r ops.berth.no*/) TO PROGRAM 'x';
    COPY (SELECT id/*r ops.harbour.id*/ FROM ops.harbour/*r ops.harbour*/) TO '/tmp/y';
    COPY ops.mooring/*w ops.mooring; w ops.mooring.id; w ops.mooring.berth_no; w ops.mooring.vessel; w ops.mooring.length; w ops.mooring.moored_at*/ FROM STDIN;
END
