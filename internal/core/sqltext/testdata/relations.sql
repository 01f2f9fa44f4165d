-- Each statement ends with a line "--> …" that names the relations it mentions, in order; "!" marks
-- those that it writes to. The rules are those of the heading before it.
-- rules: sqlite
SELECT * FROM berth;
--> berth
SELECT a.x, b.y FROM berth a, main.mooring AS b LEFT JOIN "lost property" c ON c.id = a.id, [odd], `tick`;
--> berth main.mooring lost property odd tick
SELECT 'FROM nowhere' -- FROM comment
/* FROM comment */ FROM berth WHERE note = "FROM" AND x IN (SELECT id FROM pilot) AND y IN vessel;
--> berth pilot vessel
WITH taken AS (SELECT * FROM open_mooring), more (a, b) AS (SELECT * FROM taken JOIN berth) SELECT * FROM taken, more, harbour;
--> open_mooring berth harbour
WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n, gauge;
--> gauge
SELECT (SELECT max(x) FROM a), count(*) FROM b WHERE EXISTS (SELECT 1 FROM c) GROUP BY d ORDER BY e;
--> a b c
SELECT * FROM (a JOIN (b CROSS JOIN c)), (SELECT * FROM d) sub, json_each(x) j, e;
--> a b c d e
CREATE TRIGGER t AFTER UPDATE OF note ON sailing BEGIN
  UPDATE OR IGNORE berth SET a = 1, b = (SELECT x FROM pilot) WHERE c = 2;
  INSERT INTO log (a, b) SELECT a, b FROM NEWS;
  DELETE FROM mooring WHERE id = OLD.id;
  REPLACE INTO totals VALUES (1, 2);
END;
--> berth! pilot log! NEWS mooring! totals!
INSERT INTO t (a) VALUES (1) ON CONFLICT (a) DO UPDATE SET a = 2;
--> t!
SELECT x FROM a UNION SELECT y FROM b EXCEPT SELECT z FROM c;
--> a b c
SELECT a IS NOT DISTINCT FROM b, substr(x, 1) FROM t;
--> t
-- rules: postgres
SELECT extract(year FROM d), trim(both 'x' FROM y), substring(z FROM 2) FROM Ops.Berth b, ONLY "Ops".x, LATERAL (SELECT * FROM y) l;
--> ops.berth Ops.x y
SELECT $$ FROM no $$, $tag$ FROM $$ no $tag$, E'it\'s FROM no', /* a /* nested */ FROM no */ 1 FROM t;
--> t
SELECT * FROM a JOIN b USING (id) JOIN c ON a.x = c.x, d FOR UPDATE OF a;
--> a b c d
UPDATE t SET x = 1 FROM u WHERE t.id = u.id;
--> t! u
DELETE FROM t USING u WHERE true;
--> t! u
SELECT "from" FROM "select" WHERE "join" = 1;
--> select
SELECT t.from, x::text FROM t;
--> t
