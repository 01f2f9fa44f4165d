-- table berth: no name depth harbour_id
-- table mooring: id berth_no vessel length
-- table harbour: id code title
-- table log: id what at
---
CREATE VIEW deep AS SELECT no/*r berth.no*/, "name"/*r berth.name*/, [depth]/*r berth.depth*/, `harbour_id`/*r berth.harbour_id*/ FROM berth/*r berth*/
---
CREATE VIEW deep (a, b) AS SELECT B.no/*r berth.no*/, name/*r berth.name*/ FROM Berth/*r berth*/ AS b -- berth.depth
---
CREATE VIEW v AS SELECT */*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/ FROM berth/*r berth*/ WHERE no/*r berth.no*/ IN mooring/*r mooring*/
---
CREATE TEMP VIEW IF NOT EXISTS v AS WITH taken AS (SELECT berth_no/*r mooring.berth_no*/, count(*) AS n FROM mooring/*r mooring*/ GROUP BY berth_no/*r mooring.berth_no*/) SELECT h.code/*r harbour.code*/, coalesce(t.n, 0) FROM harbour/*r harbour*/ h LEFT JOIN taken t ON t.berth_no = h.id/*r harbour.id*/
---
-- trigger berth
CREATE TRIGGER log_it AFTER UPDATE OF depth/*r berth.depth*/, name/*r berth.name*/ ON berth WHEN NEW.depth/*r berth.depth*/ < OLD.depth/*r berth.depth*/
BEGIN
    INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES (new.name/*r berth.name*/);
    UPDATE mooring/*w mooring*/ SET length/*w mooring.length*/ = 0 WHERE berth_no/*r mooring.berth_no*/ = OLD.no/*r berth.no*/;
    SELECT RAISE(ABORT, 'too shallow') WHERE NEW.depth/*r berth.depth*/ < (SELECT max(length/*r mooring.length*/) FROM mooring/*r mooring*/);
    DELETE FROM log/*w log*/ WHERE at/*r log.at*/ < 3;
END
---
CREATE TRIGGER t INSTEAD OF INSERT ON deep BEGIN INSERT OR REPLACE INTO berth/*w berth; w berth.no; w berth.name; w berth.depth; w berth.harbour_id*/ VALUES (1, 2, 3, 4); END
---
CREATE VIEW v AS SELECT a.no/*r berth.no*/ FROM berth/*r berth*/ a JOIN mooring/*r mooring*/ b ON b.berth_no/*r mooring.berth_no*/ = a.no/*r berth.no*/ WHERE a.name/*r berth.name*/ GLOB 'x*' AND a.depth/*r berth.depth*/ NOTNULL AND b.vessel/*r mooring.vessel*/ NOT LIKE 'y' ESCAPE '!'
---
CREATE VIEW v AS SELECT no/*r berth.no*/ AS n FROM berth/*r berth*/ UNION ALL SELECT id/*r harbour.id*/ FROM harbour/*r harbour*/ ORDER BY n
---
CREATE VIEW v AS SELECT x.n FROM (SELECT no/*r berth.no*/ n, depth/*r berth.depth*/ FROM berth/*r berth*/ INDEXED BY by_no) x CROSS JOIN json_each('[1]') j WHERE j.value = x.n
---
CREATE VIEW v AS SELECT CAST(depth/*r berth.depth*/ AS TEXT) || 'm', CASE name/*r berth.name*/ WHEN 'a' THEN 1 ELSE no/*r berth.no*/ END, (SELECT title/*r harbour.title*/ FROM harbour/*r harbour*/ WHERE harbour.id/*r harbour.id*/ = berth.harbour_id/*r berth.harbour_id*/) FROM berth/*r berth*/
---
CREATE VIEW v AS WITH RECURSIVE c(n) AS (VALUES (1) UNION ALL SELECT n + 1 FROM c WHERE n < (SELECT max(no/*r berth.no*/) FROM berth/*r berth*/)) SELECT n FROM c
---
-- trigger berth
CREATE TRIGGER t AFTER DELETE ON berth FOR EACH ROW BEGIN UPDATE OR IGNORE harbour/*w harbour*/ SET (code/*w harbour.code*/, title/*w harbour.title*/) = (SELECT name/*r berth.name*/, depth/*r berth.depth*/ FROM berth/*r berth*/ WHERE no/*r berth.no*/ = old.no/*r berth.no*/); END
---
CREATE VIEW v AS SELECT sum(length/*r mooring.length*/) FILTER (WHERE vessel/*r mooring.vessel*/ IS NOT NULL) OVER win FROM mooring/*r mooring*/ WINDOW win AS (PARTITION BY berth_no/*r mooring.berth_no*/ ORDER BY id/*r mooring.id*/)
---
CREATE VIEW v AS SELECT rowid, no/*r berth.no*/ FROM berth/*r berth*/ WHERE (no/*r berth.no*/, name/*r berth.name*/) IN (VALUES (1, 'x')) LIMIT 3 OFFSET 1
---
-- row berth
depth/*r berth.depth*/ > 0 AND length(name/*r berth.name*/) BETWEEN 1 AND 20
---
-- row berth
"depth"/*r berth.depth*/ * 2
---
CREATE VIEW v AS SELECT * FROM gone/*! gone*/
---
-- trigger mooring
CREATE TRIGGER t BEFORE INSERT ON mooring BEGIN INSERT INTO log/*w log*/ (id/*w log.id*/, what/*w log.what*/) SELECT no/*r berth.no*/, NEW.vessel/*r mooring.vessel*/ FROM berth/*r berth*/ WHERE no/*r berth.no*/ = NEW.berth_no/*r mooring.berth_no*/ ON CONFLICT (id/*r log.id*/) DO UPDATE SET what/*w log.what*/ = excluded.what/*r log.what*/; END
---
CREATE VIEW v AS SELECT DISTINCT a.code/*r harbour.code*/, b.code/*r harbour.code*/ FROM harbour/*r harbour*/ a, harbour/*r harbour*/ b WHERE a.id/*r harbour.id*/ < b.id/*r harbour.id*/
---
CREATE VIEW v AS SELECT name/*r berth.name*/ FROM berth/*r berth*/ EXCEPT SELECT vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/ INTERSECT SELECT title/*r harbour.title*/ FROM harbour/*r harbour*/
---
CREATE VIEW v AS SELECT group_concat(name, ', ') FROM (SELECT name/*r berth.name*/ FROM berth/*r berth*/ ORDER BY depth/*r berth.depth*/ DESC NULLS LAST)
---
CREATE VIEW v AS SELECT h.id/*r harbour.id*/ FROM harbour/*r harbour*/ h NATURAL LEFT OUTER JOIN log/*r log; r harbour.id; r log.id*/ l WHERE l.what/*r log.what*/ ISNULL
---
CREATE VIEW v AS SELECT no/*r berth.no*/ "the number", 'no' AS "text" FROM "berth"/*r berth*/ WHERE EXISTS (SELECT 1 FROM (mooring/*r mooring*/ m JOIN harbour/*r harbour*/ h ON h.id/*r harbour.id*/ = m.id/*r mooring.id*/) WHERE m.berth_no/*r mooring.berth_no*/ = no/*r berth.no*/)
---
CREATE VIEW v AS SELECT strftime('%Y', at/*r log.at*/) AS y, count(*) FROM log/*r log*/ GROUP BY 1 HAVING count(*) > 1 ORDER BY y
---
CREATE VIEW v AS SELECT b.* /*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/, m.vessel/*r mooring.vessel*/ FROM berth/*r berth*/ b, mooring/*r mooring*/ m
---
CREATE VIEW v AS SELECT likely(depth/*r berth.depth*/ IS 3), depth/*r berth.depth*/ IS NOT 4, iif(no/*r berth.no*/, 1, 2), x'00', 1e3, ?1, :a FROM berth/*r berth*/ NOT INDEXED
---
-- trigger log
CREATE TRIGGER t AFTER INSERT ON log BEGIN SELECT count(*) FROM log/*r log*/; SELECT CASE WHEN NEW.id/*r log.id*/ > 1 THEN RAISE(IGNORE) END; END
---
CREATE VIEW v AS SELECT end_of.no/*r berth.no*/ FROM berth/*r berth*/ AS end_of WHERE end_of."depth"/*r berth.depth*/ = -1
---
CREATE VIEW v AS SELECT first.vessel/*r mooring.vessel*/, second.vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/ first LEFT JOIN mooring/*r mooring*/ second ON second.id/*r mooring.id*/ = first.id/*r mooring.id*/ + 1
---
CREATE VIEW v AS SELECT n FROM (SELECT 1 AS n UNION SELECT no/*r berth.no*/ FROM berth/*r berth*/) WHERE n NOT IN (SELECT berth_no/*r mooring.berth_no*/ FROM mooring/*r mooring*/)
---
CREATE VIEW v AS SELECT b.no/*r berth.no*/, b.name/*r berth.name*/, count(m.id/*r mooring.id*/) AS moorings FROM berth/*r berth*/ b LEFT OUTER JOIN mooring/*r mooring*/ m ON m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ WHERE b.depth/*r berth.depth*/ NOTNULL GROUP BY b.no/*r berth.no*/, b.name/*r berth.name*/ HAVING count(*) > 1 ORDER BY moorings DESC
---
CREATE VIEW v(a, b) AS SELECT no/*r berth.no*/, name/*r berth.name*/ FROM berth/*r berth*/ UNION SELECT id/*r harbour.id*/, code/*r harbour.code*/ FROM harbour/*r harbour*/ ORDER BY 1
---
CREATE VIEW v AS WITH RECURSIVE chain(n, l) AS (VALUES (1, 0) UNION ALL SELECT m.berth_no/*r mooring.berth_no*/, l + 1 FROM mooring/*r mooring*/ m, chain WHERE m.id/*r mooring.id*/ = chain.n LIMIT 9) SELECT n, max(l) FROM chain GROUP BY n
---
-- trigger berth
CREATE TRIGGER t AFTER UPDATE OF depth/*r berth.depth*/ ON berth WHEN NEW.depth/*r berth.depth*/ <> OLD.depth/*r berth.depth*/ AND (SELECT count(*) FROM log/*r log*/) < 99
BEGIN
    INSERT INTO log/*w log*/ (id/*w log.id*/, what/*w log.what*/) VALUES (NEW.no/*r berth.no*/, OLD.name/*r berth.name*/ || ' ' || NEW.depth/*r berth.depth*/);
    UPDATE mooring/*w mooring*/ SET length/*w mooring.length*/ = NEW.depth/*r berth.depth*/ WHERE berth_no/*r mooring.berth_no*/ = NEW.no/*r berth.no*/ AND vessel/*r mooring.vessel*/ <> '';
    DELETE FROM log/*w log*/ WHERE id/*r log.id*/ NOT IN (SELECT no/*r berth.no*/ FROM berth/*r berth*/);
    SELECT RAISE(ABORT, 'too deep') WHERE NEW.depth/*r berth.depth*/ > (SELECT max(depth/*r berth.depth*/) FROM berth/*r berth*/);
    INSERT INTO log/*w log*/ (id/*w log.id*/) SELECT id/*r harbour.id*/ FROM harbour/*r harbour*/ ON CONFLICT (id/*r log.id*/) DO UPDATE SET what/*w log.what*/ = excluded.what/*r log.what*/ || log.what/*r log.what*/ WHERE log.id/*r log.id*/ > 1;
END
---
-- trigger berth
CREATE TRIGGER t INSTEAD OF INSERT ON berth BEGIN INSERT OR REPLACE INTO mooring/*w mooring*/ (id/*w mooring.id*/, vessel/*w mooring.vessel*/) SELECT NEW.no/*r berth.no*/, h.title/*r harbour.title*/ FROM harbour/*r harbour*/ h WHERE h.id/*r harbour.id*/ = NEW.harbour_id/*r berth.harbour_id*/; END
---
SELECT b.rowid, oid, name/*r berth.name*/ FROM berth/*r berth*/ b
---
SELECT no/*r berth.no*/, iif(depth/*r berth.depth*/ > 1, name/*r berth.name*/, 'x'), CAST(depth/*r berth.depth*/ AS text), name/*r berth.name*/ COLLATE nocase, name/*r berth.name*/ GLOB 'a*', name/*r berth.name*/ IS NOT NULL, depth/*r berth.depth*/ ISNULL FROM berth/*r berth*/
---
SELECT sum(depth/*r berth.depth*/) FILTER (WHERE name/*r berth.name*/ <> 'x') OVER (PARTITION BY harbour_id/*r berth.harbour_id*/ ORDER BY no/*r berth.no*/ GROUPS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW EXCLUDE TIES), ntile(3) OVER w FROM berth/*r berth*/ WINDOW w AS (ORDER BY depth/*r berth.depth*/)
---
SELECT h.code/*r harbour.code*/ FROM harbour/*r harbour*/ h WHERE EXISTS (SELECT 1 FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ = h.id/*r harbour.id*/ AND depth/*r berth.depth*/ > (SELECT avg(length/*r mooring.length*/) FROM mooring/*r mooring*/ WHERE berth_no/*r mooring.berth_no*/ = berth.no/*r berth.no*/))
---
SELECT * FROM (SELECT no/*r berth.no*/ AS n, name/*r berth.name*/ FROM berth/*r berth*/) JOIN (SELECT berth_no/*r mooring.berth_no*/ AS n, vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/) USING (n)
---
SELECT */*r berth.no; r berth.name; r berth.depth; r berth.harbour_id; r mooring.id; r mooring.berth_no; r mooring.vessel; r mooring.length*/ FROM berth/*r berth*/ NATURAL LEFT JOIN mooring/*r mooring*/
---
SELECT a.no/*r berth.no*/, b.no/*r berth.no*/ FROM berth/*r berth*/ a JOIN berth/*r berth*/ b ON a.harbour_id/*r berth.harbour_id*/ = b.harbour_id/*r berth.harbour_id*/ AND a.no/*r berth.no*/ < b.no/*r berth.no*/
---
SELECT (SELECT name/*r berth.name*/ FROM berth/*r berth*/ WHERE no/*r berth.no*/ = m.berth_no/*r mooring.berth_no*/) AS berth, m.vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/ AS m ORDER BY berth, length/*r mooring.length*/ COLLATE nocase LIMIT 3 OFFSET (SELECT count(*) FROM log/*r log*/)
---
SELECT no/*r berth.no*/ FROM berth/*r berth*/ WHERE (no/*r berth.no*/, name/*r berth.name*/) IN (SELECT berth_no/*r mooring.berth_no*/, vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/) AND name/*r berth.name*/ IN log/*r log*/
---
INSERT INTO log/*w log*/ DEFAULT VALUES
---
INSERT INTO log/*w log; w log.id; w log.what; w log.at*/ SELECT no/*r berth.no*/, name/*r berth.name*/ FROM berth/*r berth*/ WHERE true ON CONFLICT DO NOTHING RETURNING id/*r log.id*/, what/*r log.what*/
---
REPLACE INTO log/*w log*/ (what/*w log.what*/) VALUES ((SELECT max(title/*r harbour.title*/) FROM harbour/*r harbour*/))
---
UPDATE berth/*w berth*/ SET (name/*w berth.name*/, depth/*w berth.depth*/) = (SELECT title/*r harbour.title*/, id/*r harbour.id*/ FROM harbour/*r harbour*/ WHERE harbour.id/*r harbour.id*/ = berth.harbour_id/*r berth.harbour_id*/), harbour_id/*w berth.harbour_id*/ = harbour_id/*r berth.harbour_id*/ + 1 WHERE no/*r berth.no*/ = 1
---
UPDATE OR IGNORE berth/*w berth*/ AS b SET name/*w berth.name*/ = m.vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/ m WHERE m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ AND b.depth/*r berth.depth*/ > 1 RETURNING b.no/*r berth.no*/
---
DELETE FROM mooring/*w mooring*/ WHERE berth_no/*r mooring.berth_no*/ IN (SELECT no/*r berth.no*/ FROM berth/*r berth*/ WHERE depth/*r berth.depth*/ < 1) RETURNING */*r mooring.id; r mooring.berth_no; r mooring.vessel; r mooring.length*/
---
WITH deep AS (SELECT no/*r berth.no*/ FROM berth/*r berth*/ WHERE depth/*r berth.depth*/ > 1), gone AS NOT MATERIALIZED (SELECT id/*r log.id*/ FROM log/*r log*/) DELETE FROM mooring/*w mooring*/ WHERE berth_no/*r mooring.berth_no*/ IN deep OR id/*r mooring.id*/ IN (SELECT id FROM gone)
---
SELECT j.value ->> '$.a', t.title/*r harbour.title*/ FROM harbour/*r harbour*/ t, json_each(t.title/*r harbour.title*/) j WHERE j.key = t.code/*r harbour.code*/
---
SELECT group_concat(name/*r berth.name*/, ', ' ORDER BY depth/*r berth.depth*/), max(no/*r berth.no*/) FROM berth/*r berth*/ WHERE name/*r berth.name*/ LIKE 'a%' ESCAPE '!'
---
SELECT CASE harbour_id/*r berth.harbour_id*/ WHEN 1 THEN name/*r berth.name*/ WHEN (SELECT id/*r harbour.id*/ FROM harbour/*r harbour*/ LIMIT 1) THEN depth/*r berth.depth*/ ELSE no/*r berth.no*/ END FROM berth/*r berth*/
---
VALUES (1, (SELECT max(no/*r berth.no*/) FROM berth/*r berth*/)), (2, 3)
---
SELECT x.n FROM (SELECT no/*r berth.no*/ AS n FROM berth/*r berth*/ UNION ALL SELECT id/*r harbour.id*/ FROM harbour/*r harbour*/) AS x WHERE x.n > 1
---
SELECT berth.*/*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/ FROM berth/*r berth*/ INDEXED BY berth_name, harbour/*r harbour*/ NOT INDEXED WHERE harbour.id/*r harbour.id*/ = berth.harbour_id/*r berth.harbour_id*/
---
SELECT no FROM gone/*! gone*/
---
SELECT "no such", name/*r berth.name*/ FROM berth/*r berth*/
---
-- row berth
depth/*r berth.depth*/ > 0 AND (name/*r berth.name*/ IS NULL OR length(name/*r berth.name*/) BETWEEN 1 AND 9)
---
CREATE VIEW v AS SELECT CAST(count(*) AS integer) AS n, (SELECT json_group_array(json_object('v', vessel/*r mooring.vessel*/)) FROM mooring/*r mooring*/ WHERE berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/) FROM berth/*r berth*/ b GROUP BY b.harbour_id/*r berth.harbour_id*/
---
CREATE VIEW v AS SELECT strftime('%Y', l.what/*r log.what*/) AS year, total(l.id/*r log.id*/) FROM log/*r log*/ l GROUP BY year
---
CREATE VIEW v AS SELECT b.name/*r berth.name*/ FROM berth/*r berth*/ b CROSS JOIN harbour/*r harbour*/ h WHERE b.harbour_id/*r berth.harbour_id*/ IS h.id/*r harbour.id*/ AND NOT b.depth/*r berth.depth*/
---
CREATE VIEW v AS SELECT row_number() OVER (ORDER BY b.depth/*r berth.depth*/ DESC) AS r, b.*/*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/ FROM berth/*r berth*/ b
---
CREATE VIEW v AS SELECT b.no/*r berth.no*/ FROM berth/*r berth*/ b, (harbour/*r harbour*/ h JOIN mooring/*r mooring*/ m ON m.id/*r mooring.id*/ = h.id/*r harbour.id*/) WHERE m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ AND h.code/*r harbour.code*/ = 'x'
---
CREATE VIEW v AS SELECT no/*r berth.no*/ FROM berth/*r berth*/ EXCEPT SELECT berth_no/*r mooring.berth_no*/ FROM mooring/*r mooring*/ INTERSECT SELECT id/*r log.id*/ FROM log/*r log*/
---
CREATE VIEW v AS SELECT d.n, d.m FROM (SELECT count(*) AS n, max(depth/*r berth.depth*/) AS m FROM berth/*r berth*/ GROUP BY harbour_id/*r berth.harbour_id*/) d WHERE d.n > (SELECT count(*) FROM log/*r log*/)
---
-- trigger mooring
CREATE TRIGGER t BEFORE DELETE ON mooring FOR EACH ROW BEGIN UPDATE berth/*w berth*/ SET depth/*w berth.depth*/ = depth/*r berth.depth*/ - OLD.length/*r mooring.length*/ WHERE no/*r berth.no*/ = OLD.berth_no/*r mooring.berth_no*/; INSERT INTO log/*w log; w log.id; w log.what; w log.at*/ SELECT OLD.id/*r mooring.id*/, vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/ WHERE id/*r mooring.id*/ = OLD.id/*r mooring.id*/; END
---
CREATE VIEW v AS SELECT name/*r berth.name*/, -- depth
 /* no */ harbour_id/*r berth.harbour_id*/ FROM berth/*r berth*/
---
CREATE TEMP VIEW v AS SELECT ifnull(b.name/*r berth.name*/, h.title/*r harbour.title*/) FROM berth/*r berth*/ b FULL OUTER JOIN harbour/*r harbour*/ h ON h.id/*r harbour.id*/ = b.harbour_id/*r berth.harbour_id*/
---
CREATE VIEW v AS SELECT count(DISTINCT name/*r berth.name*/), min(depth/*r berth.depth*/, no/*r berth.no*/) FROM berth/*r berth*/
---
CREATE VIEW v AS SELECT rowid, no/*r berth.no*/ FROM berth/*r berth*/ WHERE rowid IN (SELECT rowid FROM mooring/*r mooring*/)
---
CREATE VIEW v AS SELECT b.no/*r berth.no*/ AS number, number + 1 FROM berth/*r berth*/ b
---
SELECT name/*r berth.name*/ FROM berth/*r berth*/ ORDER BY (SELECT code/*r harbour.code*/ FROM harbour/*r harbour*/ WHERE id/*r harbour.id*/ = harbour_id/*r berth.harbour_id*/), 1
---
SELECT lead(vessel/*r mooring.vessel*/, 1, 'none') OVER (PARTITION BY berth_no/*r mooring.berth_no*/ ORDER BY id/*r mooring.id*/) FROM mooring/*r mooring*/
---
WITH a AS (SELECT no/*r berth.no*/ FROM berth/*r berth*/), b AS (SELECT no AS n FROM a) SELECT n, (SELECT title/*r harbour.title*/ FROM harbour/*r harbour*/ WHERE id/*r harbour.id*/ = n) FROM b
---
INSERT INTO berth/*w berth*/ (no/*w berth.no*/, name/*w berth.name*/) WITH x AS (SELECT id/*r harbour.id*/, code/*r harbour.code*/ FROM harbour/*r harbour*/) SELECT id, code FROM x
---
SELECT 'berth.no', "berth"."no"/*r berth.no*/ FROM "berth"/*r berth*/ WHERE 'x' = name/*r berth.name*/
---
SELECT s.what/*r log.what*/ FROM log/*r log*/ s WHERE s.id/*r log.id*/ = (SELECT id/*r log.id*/ FROM log/*r log*/ WHERE what/*r log.what*/ = s.what/*r log.what*/ ORDER BY id/*r log.id*/ DESC LIMIT 1)

---
SELECT m.vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/ m WHERE m.length/*r mooring.length*/ = (SELECT max(length/*r mooring.length*/) FROM mooring/*r mooring*/ WHERE berth_no/*r mooring.berth_no*/ = m.berth_no/*r mooring.berth_no*/) GROUP BY m.berth_no/*r mooring.berth_no*/ HAVING count(*) > 0 UNION ALL SELECT title/*r harbour.title*/ FROM harbour/*r harbour*/ ORDER BY vessel
---
-- trigger log
CREATE TRIGGER t AFTER INSERT ON log BEGIN UPDATE harbour/*w harbour*/ SET title/*w harbour.title*/ = (SELECT group_concat(what/*r log.what*/) FROM log/*r log*/ l WHERE l.id/*r log.id*/ = NEW.id/*r log.id*/) WHERE id/*r harbour.id*/ = NEW.id/*r log.id*/ AND code/*r harbour.code*/ IS NOT NEW.what/*r log.what*/; DELETE FROM log/*w log*/ WHERE id/*r log.id*/ < NEW.id/*r log.id*/ - 9; END
---
SELECT h.title/*r harbour.title*/, (SELECT count(*) FROM berth/*r berth*/ b LEFT JOIN mooring/*r mooring*/ m ON m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ AND m.length/*r mooring.length*/ > b.depth/*r berth.depth*/ WHERE b.harbour_id/*r berth.harbour_id*/ = h.id/*r harbour.id*/) AS n FROM harbour/*r harbour*/ h WHERE n > 1
