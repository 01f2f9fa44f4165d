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
