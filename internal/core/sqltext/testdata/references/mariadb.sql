-- table berth: no name depth harbour_id
-- table mooring: id berth_no vessel length
-- table harbour: id code title
-- table log: id what at
-- table other.tide: id height
-- routine charge
-- routine note
-- sequence berth_no_seq
---
SELECT `b`.`no`/*r berth.no*/ AS `no`, `b`.`name`/*r berth.name*/ AS `name` FROM `berth`/*r berth*/ `b` WHERE `b`.`depth`/*r berth.depth*/ > 3
---
select berth.no/*r berth.no*/, t.height/*r other.tide.height*/ from (berth/*r berth*/ join other.tide/*r other.tide*/ t on(t.id/*r other.tide.id*/ = berth.no/*r berth.no*/))
---
SELECT "berth.no", 'x' AS y, /* harbour.code */ No/*r berth.no*/ FROM berth/*r berth*/ # harbour
---
SELECT ifnull(depth/*r berth.depth*/, 0) DIV 2, IF(name/*r berth.name*/ IS NULL, 'a', 'b'), LEFT(name/*r berth.name*/, 3), REPLACE(name/*r berth.name*/, 'a', 'b') FROM berth/*r berth*/ FORCE INDEX (PRIMARY) WHERE name/*r berth.name*/ REGEXP '^a' XOR depth/*r berth.depth*/ BETWEEN 1 AND 2 LIMIT 1, 2
---
SELECT group_concat(DISTINCT name/*r berth.name*/ ORDER BY depth/*r berth.depth*/ DESC SEPARATOR ', '), count(0) FROM berth/*r berth*/ GROUP BY harbour_id/*r berth.harbour_id*/ WITH ROLLUP
---
SELECT charge/*c charge*/(no/*r berth.no*/), nextval(berth_no_seq/*n berth_no_seq*/), NEXT VALUE FOR berth_no_seq/*n berth_no_seq*/, lastval(`berth_no_seq`/*n berth_no_seq*/) FROM berth/*r berth*/
---
SELECT date_add(now(), INTERVAL depth/*r berth.depth*/ DAY), timestampdiff(DAY, now(), at/*r log.at*/), extract(YEAR FROM at/*r log.at*/), cast(depth/*r berth.depth*/ AS char(9) charset utf8mb4), convert(name/*r berth.name*/ USING latin1) FROM berth/*r berth*/, log/*r log*/
---
WITH RECURSIVE up AS (SELECT no/*r berth.no*/ AS n FROM berth/*r berth*/ UNION ALL SELECT berth_no/*r mooring.berth_no*/ FROM mooring/*r mooring*/ JOIN up ON up.n = mooring.id/*r mooring.id*/) SELECT n FROM up
---
SELECT d.n FROM (SELECT count(*) AS n FROM mooring/*r mooring*/ GROUP BY vessel/*r mooring.vessel*/) d STRAIGHT_JOIN harbour/*r harbour*/ USING (id/*r harbour.id*/)
---
INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES ('x') ON DUPLICATE KEY UPDATE what/*w log.what*/ = concat(VALUES(what/*r log.what*/), what/*r log.what*/)
---
INSERT IGNORE INTO log/*w log*/ SET what/*w log.what*/ = 'x', at/*w log.at*/ = now()
---
REPLACE INTO log/*w log; w log.id; w log.what; w log.at*/ SELECT id/*r harbour.id*/, title/*r harbour.title*/, now() FROM harbour/*r harbour*/
---
UPDATE berth/*r berth; w berth*/ b JOIN mooring/*r mooring; w mooring*/ m ON m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ SET b.depth/*w berth.depth*/ = m.length/*r mooring.length*/, vessel/*w mooring.vessel*/ = 'x' WHERE b.name/*r berth.name*/ = ''
---
UPDATE berth/*w berth*/ SET depth/*w berth.depth*/ = depth/*r berth.depth*/ + 1 WHERE no/*r berth.no*/ = 1 ORDER BY name/*r berth.name*/ LIMIT 1
---
DELETE FROM log/*w log*/ WHERE at/*r log.at*/ < now() - INTERVAL 1 YEAR LIMIT 10
---
DELETE m/*w mooring*/ FROM mooring/*r mooring*/ m JOIN berth/*r berth*/ b ON b.no/*r berth.no*/ = m.berth_no/*r mooring.berth_no*/ WHERE b.depth/*r berth.depth*/ < 1
---
PROCEDURE tidy(IN name varchar(20), OUT gone int)
BEGIN
    DECLARE done, depth int DEFAULT 0;
    DECLARE c CURSOR FOR SELECT no/*r berth.no*/, name FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ IN (SELECT id/*r harbour.id*/ FROM harbour/*r harbour*/);
    DECLARE CONTINUE HANDLER FOR NOT FOUND SET done = 1;
    DECLARE EXIT HANDLER FOR SQLSTATE '23000', 1062 BEGIN INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES (name); END;
    OPEN c;
    each_one: LOOP
        FETCH c INTO gone, name;
        IF done THEN LEAVE each_one; END IF;
        UPDATE mooring/*w mooring*/ SET vessel/*w mooring.vessel*/ = name WHERE berth_no/*r mooring.berth_no*/ = gone AND length/*r mooring.length*/ > depth;
    END LOOP each_one;
    CLOSE c;
    SELECT count(*), max(id/*r log.id*/) INTO gone, @most FROM log/*r log*/;
    CALL note/*c note*/(gone);
    SET @x = (SELECT max(title/*r harbour.title*/) FROM harbour/*r harbour*/), gone = gone + 1;
    WHILE gone > 0 DO SET gone = gone - 1; END WHILE;
    REPEAT SET gone = gone + 1; UNTIL gone > (SELECT min(depth) FROM berth/*r berth*/) END REPEAT;
    CASE gone WHEN 1 THEN SELECT code/*r harbour.code*/ FROM harbour/*r harbour*/; ELSE BEGIN END; END CASE;
END
---
FUNCTION deepest(harbour int) RETURNS int DETERMINISTIC READS SQL DATA
RETURN (SELECT max(depth/*r berth.depth*/) FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ = harbour)
---
-- trigger berth
BEGIN
    IF NEW.depth/*r berth.depth*/ <> OLD.depth/*r berth.depth*/ THEN
        SET NEW.name/*w berth.name*/ = upper(NEW.name/*r berth.name*/);
        INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES (OLD.no/*r berth.no*/);
    END IF;
END
---
-- trigger berth
INSERT INTO log/*w log; w log.id; w log.what; w log.at*/ SELECT no, NEW.name/*r berth.name*/ FROM gone/*! gone*/
---
PROCEDURE dyn(t varchar(64)) BEGIN
    SET @q = concat('SELECT * FROM ', t);
    PREPARE s FROM @q/*?*/;
    EXECUTE s USING @a;
    DEALLOCATE PREPARE s;
    EXECUTE IMMEDIATE 'DELETE FROM log/*~w log*/ WHERE id/*~r log.id*/ = 1';
    EXECUTE IMMEDIATE concat('DROP TABLE ', t)/*?*/;
    PREPARE s FROM 'UPDATE berth/*~w berth*/ SET name/*~w berth.name*/ = ?';
END
---
PROCEDURE t1() BEGIN
    CREATE TEMPORARY TABLE log (a int, b int);
    INSERT INTO log VALUES (1, 2);
    SELECT a FROM log;
    DROP TEMPORARY TABLE log;
END
---
PROCEDURE ora(a IN int) AS
    n int := 0;
    r berth/*t berth*/%ROWTYPE;
    d berth.depth/*t berth; t berth.depth*/%TYPE;
    CURSOR c IS SELECT vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/;
BEGIN
    SELECT */*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/ INTO r FROM berth/*r berth*/ WHERE no/*r berth.no*/ = a;
    n := r.depth/*r berth.depth*/;
    FOR x IN (SELECT id/*r harbour.id*/ FROM harbour/*r harbour*/) LOOP
        note/*c note*/(x.id);
    END LOOP;
    IF n > 0 THEN NULL; ELSIF n < 0 THEN RAISE too_deep; END IF;
    EXCEPTION WHEN OTHERS THEN n := 1;
END
---
PROCEDURE p() BEGIN
    FOR r IN (SELECT code/*r harbour.code*/ FROM harbour/*r harbour*/) DO INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES (r.code); END FOR;
    FOR i IN 1..3 DO SET @x = i; END FOR;
    TRUNCATE TABLE log/*w log*/;
    LOCK TABLES berth/*r berth*/ WRITE;
    START TRANSACTION; COMMIT;
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'x';
END
---
-- row berth
`depth`/*r berth.depth*/ > 0 and `charge`/*c charge*/(`name`/*r berth.name*/) < 3
---
select (select max(`m`.`length`/*r mooring.length*/) from `mooring`/*r mooring*/ `m` where `m`.`berth_no`/*r mooring.berth_no*/ = `b`.`no`/*r berth.no*/) AS `x` from `berth`/*r berth*/ `b` union select `id`/*r harbour.id*/ from `harbour`/*r harbour*/ order by `x`
---
select row_number() over (partition by harbour_id/*r berth.harbour_id*/ order by depth/*r berth.depth*/ desc) r from berth/*r berth*/ having r > 1
---
select 1 from dual/*! dual*/ where exists(select 1 from harbour/*r harbour*/ where id/*r harbour.id*/ in (select harbour_id/*r berth.harbour_id*/ from berth/*r berth*/) limit 1)
---
select case when no/*r berth.no*/ then 'x' else name/*r berth.name*/ end, json_value(name/*r berth.name*/, '$.a'), name/*r berth.name*/ collate utf8mb4_bin, -depth/*r berth.depth*/, !no/*r berth.no*/, @v := no/*r berth.no*/, `no`/*r berth.no*/ 'alias' from berth/*r berth*/ for update
---
PROCEDURE q() SQL SECURITY INVOKER COMMENT 'x' SELECT title/*r harbour.title*/ FROM harbour/*r harbour*/
---
CREATE FUNCTION deepest() RETURNS text READS SQL DATA RETURN concat((SELECT max(depth/*r berth.depth*/) FROM berth/*r berth*/), note/*c note*/('x'))
---
CREATE FUNCTION name_of(b int) RETURNS text
BEGIN
    DECLARE one ROW TYPE OF berth/*t berth*/;
    DECLARE d TYPE OF berth.depth/*t berth; t berth.depth*/;
    SELECT * /*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/INTO one FROM berth/*r berth*/ LIMIT 1;
    RETURN concat(one.name/*r berth.name*/, d);
END
---
CREATE FUNCTION plain(a int) RETURNS int RETURN a + (SELECT count(*) FROM harbour/*r harbour*/)
---
CREATE PROCEDURE p(IN h int, OUT n int, INOUT title varchar(9))
BEGIN
    DECLARE done bool DEFAULT false; DECLARE v varchar(20); DECLARE l, k int DEFAULT (SELECT count(*) FROM log/*r log*/);
    DECLARE c CURSOR FOR SELECT vessel/*r mooring.vessel*/, length/*r mooring.length*/ FROM mooring/*r mooring*/ WHERE berth_no/*r mooring.berth_no*/ = h;
    DECLARE EXIT HANDLER FOR SQLEXCEPTION BEGIN ROLLBACK; INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES ('failed'); END;
    DECLARE CONTINUE HANDLER FOR NOT FOUND SET done = true;
    START TRANSACTION;
    OPEN c;
    reading: LOOP
        FETCH c INTO v, l;
        IF done THEN LEAVE reading; END IF;
        UPDATE berth/*w berth*/ SET name/*w berth.name*/ = v, depth/*w berth.depth*/ = depth/*r berth.depth*/ + l WHERE no/*r berth.no*/ = h AND title IS NULL;
    END LOOP;
    CLOSE c;
    SELECT count(*), max(depth/*r berth.depth*/) INTO n, @deepest FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ = h;
    COMMIT;
END
---
CREATE FUNCTION f(length int) RETURNS int DETERMINISTIC
BEGIN
    RETURN (SELECT count(*) FROM mooring/*r mooring*/ m WHERE m.length/*r mooring.length*/ > length);
END
---
-- trigger berth
CREATE TRIGGER t AFTER UPDATE ON berth FOR EACH ROW
BEGIN
    IF OLD.depth/*r berth.depth*/ <> NEW.depth/*r berth.depth*/ OR OLD.name/*r berth.name*/ IS NULL THEN
        INSERT INTO log/*w log*/ SET what/*w log.what*/ = concat(OLD.name/*r berth.name*/, '→', NEW.name/*r berth.name*/), id/*w log.id*/ = NEW.no/*r berth.no*/;
    ELSEIF (SELECT count(*) FROM mooring/*r mooring*/ WHERE berth_no/*r mooring.berth_no*/ = NEW.no/*r berth.no*/) > 3 THEN
        SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'too many';
    END IF;
    CALL note/*c note*/(NEW.harbour_id/*r berth.harbour_id*/);
END
---
-- trigger berth
CREATE TRIGGER t BEFORE INSERT ON berth FOR EACH ROW SET NEW.name/*w berth.name*/ = upper(NEW.name/*r berth.name*/), NEW.depth/*w berth.depth*/ = coalesce(NEW.depth/*r berth.depth*/, (SELECT max(depth/*r berth.depth*/) FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ = NEW.harbour_id/*r berth.harbour_id*/))
---
INSERT INTO berth/*w berth*/ (no/*w berth.no*/, name/*w berth.name*/) VALUES (1, 'a'), (2, 'b') ON DUPLICATE KEY UPDATE name/*w berth.name*/ = VALUES(name/*r berth.name*/), depth/*w berth.depth*/ = berth.depth/*r berth.depth*/ + 1
---
INSERT IGNORE INTO log/*w log; w log.id; w log.what; w log.at*/ SELECT id/*r harbour.id*/, title/*r harbour.title*/ FROM harbour/*r harbour*/ WHERE code/*r harbour.code*/ = 'x' RETURNING id/*r log.id*/, what/*r log.what*/
---
REPLACE INTO log/*w log*/ (id/*w log.id*/, what/*w log.what*/) SELECT b.no/*r berth.no*/, h.code/*r harbour.code*/ FROM berth/*r berth*/ b STRAIGHT_JOIN harbour/*r harbour*/ h ON h.id/*r harbour.id*/ = b.harbour_id/*r berth.harbour_id*/
---
UPDATE berth/*r berth; w berth*/ b, harbour/*r harbour; w harbour*/ h SET b.name/*w berth.name*/ = h.title/*r harbour.title*/, h.code/*w harbour.code*/ = 'x' WHERE b.harbour_id/*r berth.harbour_id*/ = h.id/*r harbour.id*/ AND depth/*r berth.depth*/ > 3
---
UPDATE berth/*r berth; w berth*/ LEFT JOIN mooring/*r mooring*/ ON mooring.berth_no/*r mooring.berth_no*/ = berth.no/*r berth.no*/ SET berth.depth/*w berth.depth*/ = NULL WHERE mooring.id/*r mooring.id*/ IS NULL
---
DELETE b/*w berth*/, m/*w mooring*/ FROM berth/*r berth*/ b JOIN mooring/*r mooring*/ m ON m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ WHERE b.depth/*r berth.depth*/ < 1
---
DELETE FROM b/*w berth*/, m/*w mooring*/ USING berth/*r berth*/ AS b INNER JOIN mooring/*r mooring*/ AS m WHERE m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ AND length/*r mooring.length*/ > 1
---
DELETE FROM log/*w log*/ WHERE id/*r log.id*/ IN (SELECT no/*r berth.no*/ FROM berth/*r berth*/) ORDER BY what/*r log.what*/ LIMIT 3
---
WITH RECURSIVE r(n, l) AS (SELECT no/*r berth.no*/, 1 FROM berth/*r berth*/ UNION ALL SELECT m.berth_no/*r mooring.berth_no*/, r.l + 1 FROM mooring/*r mooring*/ m JOIN r ON r.n = m.id/*r mooring.id*/) SELECT n, max(l) FROM r GROUP BY n WITH ROLLUP
---
SELECT b.`no`/*r berth.no*/, group_concat(DISTINCT m.vessel/*r mooring.vessel*/ ORDER BY m.length/*r mooring.length*/ DESC SEPARATOR ', ') AS vessels FROM berth/*r berth*/ b LEFT JOIN mooring/*r mooring*/ m ON m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/ GROUP BY b.`no`/*r berth.no*/ HAVING vessels LIKE '%a%' ORDER BY vessels
---
SELECT row_number() OVER (PARTITION BY harbour_id/*r berth.harbour_id*/ ORDER BY depth/*r berth.depth*/), first_value(name/*r berth.name*/) OVER w FROM berth/*r berth*/ WINDOW w AS (ORDER BY no/*r berth.no*/)
---
SELECT name/*r berth.name*/ FROM berth/*r berth*/ WHERE depth/*r berth.depth*/ > ALL (SELECT height/*r other.tide.height*/ FROM other.tide/*r other.tide*/) AND (no/*r berth.no*/, name/*r berth.name*/) IN (SELECT berth_no/*r mooring.berth_no*/, vessel/*r mooring.vessel*/ FROM mooring/*r mooring*/)
---
SELECT b.*/*r berth.no; r berth.name; r berth.depth; r berth.harbour_id*/, (SELECT h.code/*r harbour.code*/ FROM harbour/*r harbour*/ h WHERE h.id/*r harbour.id*/ = b.harbour_id/*r berth.harbour_id*/) AS code FROM berth/*r berth*/ AS b FORCE INDEX (PRIMARY) USE INDEX FOR JOIN (x) WHERE b.name/*r berth.name*/ REGEXP '^a' FOR UPDATE
---
SELECT d.n, d.t FROM (SELECT no/*r berth.no*/ AS n, (SELECT max(height/*r other.tide.height*/) FROM other.tide/*r other.tide*/ t WHERE t.id/*r other.tide.id*/ = berth.no/*r berth.no*/) AS t FROM berth/*r berth*/) d WHERE d.n BETWEEN 1 AND 2
---
SELECT a.name/*r berth.name*/ FROM berth/*r berth*/ a, berth/*r berth*/ b WHERE a.no/*r berth.no*/ = b.harbour_id/*r berth.harbour_id*/ AND a.depth/*r berth.depth*/ <=> b.depth/*r berth.depth*/ AND a.name/*r berth.name*/ SOUNDS LIKE b.name/*r berth.name*/
---
SELECT name/*r berth.name*/, CASE WHEN depth/*r berth.depth*/ IS NULL THEN 'x' WHEN depth/*r berth.depth*/ DIV 2 = 1 THEN name/*r berth.name*/ ELSE interval(no/*r berth.no*/, 1, 2) END, IF(depth/*r berth.depth*/ > 1, name/*r berth.name*/, NULL), CAST(no/*r berth.no*/ AS char(9)), CONVERT(name/*r berth.name*/ USING utf8mb4), date_add(now(), INTERVAL no/*r berth.no*/ DAY) FROM berth/*r berth*/
---
SELECT */*r berth.no; r berth.name; r berth.depth; r berth.harbour_id; r mooring.id; r mooring.berth_no; r mooring.vessel; r mooring.length*/ FROM berth/*r berth*/ NATURAL JOIN mooring/*r mooring*/
---
SELECT @n := no/*r berth.no*/, @m FROM berth/*r berth*/ WHERE @m < depth/*r berth.depth*/ INTO @k
---
SELECT name/*r berth.name*/ INTO OUTFILE '/tmp/x' FROM berth/*r berth*/
---
CREATE EVENT e ON SCHEDULE EVERY 1 DAY DO BEGIN DELETE FROM log/*w log*/ WHERE id/*r log.id*/ < (SELECT max(id/*r harbour.id*/) FROM harbour/*r harbour*/); CALL note/*c note*/(1); END
---
CREATE PROCEDURE p(x int)
BEGIN
    CASE x WHEN 1 THEN DELETE FROM log/*w log*/; WHEN 2 THEN SELECT 1; ELSE BEGIN END; END CASE;
    CASE WHEN (SELECT count(*) FROM log/*r log*/) > 1 THEN TRUNCATE TABLE log/*w log*/; END CASE;
    REPEAT SET x = x + 1; UNTIL x > (SELECT count(*) FROM mooring/*r mooring*/) END REPEAT;
    WHILE x > 0 DO SET x = x - 1, @y = (SELECT max(no/*r berth.no*/) FROM berth/*r berth*/); END WHILE;
    one: BEGIN ITERATE one; LEAVE one; END one;
END
---
CREATE PROCEDURE p(t varchar(64))
BEGIN
    SET @s = concat('SELECT * FROM ', t);
    PREPARE s FROM @s/*?*/;
    EXECUTE s USING @a;
    DEALLOCATE PREPARE s;
    PREPARE s FROM 'DELETE FROM log/*~w log*/ WHERE id/*~r log.id*/ = ?';
    EXECUTE s USING @a;
END
---
CREATE PROCEDURE p()
BEGIN
    CREATE TEMPORARY TABLE found (n int, called varchar(9));
    INSERT INTO found SELECT no/*r berth.no*/, name/*r berth.name*/ FROM berth/*r berth*/;
    UPDATE found f JOIN harbour/*r harbour*/ h ON h.id/*r harbour.id*/ = f.n SET f.called = h.code/*r harbour.code*/;
    SELECT called FROM found;
    DROP TEMPORARY TABLE found;
    CREATE TEMPORARY TABLE more AS SELECT vessel/*r mooring.vessel*/ AS v FROM mooring/*r mooring*/;
    SELECT v FROM more;
END
---
CREATE PROCEDURE p()
BEGIN
    FOR r IN (SELECT no/*r berth.no*/, name/*r berth.name*/ AS called FROM berth/*r berth*/) DO
        INSERT INTO log/*w log*/ (id/*w log.id*/, what/*w log.what*/) VALUES (r.no, r.called);
    END FOR;
    FOR i IN REVERSE 1..10 DO SELECT i; END FOR;
END
---
CREATE OR REPLACE PACKAGE BODY tools AS
  last_no int := 3;
  FUNCTION deepest(h int) RETURN int AS
    d berth.depth/*t berth; t berth.depth*/%TYPE;
    r berth/*t berth*/%ROWTYPE;
    CURSOR c IS SELECT name/*r berth.name*/ FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ = h;
  BEGIN
    SELECT max(depth/*r berth.depth*/) INTO d FROM berth/*r berth*/ WHERE harbour_id/*r berth.harbour_id*/ = h;
    FOR x IN c LOOP
      INSERT INTO log/*w log*/ (what/*w log.what*/) VALUES (x.name);
    END LOOP;
    RETURN d;
  EXCEPTION
    WHEN NO_DATA_FOUND THEN RETURN NULL;
  END;
  PROCEDURE tidy AS
  BEGIN
    DELETE FROM log/*w log*/ WHERE id/*r log.id*/ = deepest(1);
    IF SQL%ROWCOUNT > 0 THEN note/*c note*/('x'); END IF;
  END;
END
---
SELECT nextval(berth_no_seq/*n berth_no_seq*/), lastval(berth_no_seq/*n berth_no_seq*/), NEXT VALUE FOR berth_no_seq/*n berth_no_seq*/, setval(berth_no_seq/*n berth_no_seq*/, 3)
---
SELECT `x`.`a` FROM (SELECT `berth`.`no`/*r berth.no*/ AS `a` FROM `berth`/*r berth*/ UNION ALL SELECT `harbour`.`id`/*r harbour.id*/ AS `id` FROM `harbour`/*r harbour*/ WHERE `harbour`.`code`/*r harbour.code*/ = _utf8mb4'x' COLLATE utf8mb4_bin) `x`
---
SELECT json_value(j.doc, '$.a'), t.n FROM (SELECT title/*r harbour.title*/ AS doc FROM harbour/*r harbour*/) j, JSON_TABLE(j.doc, '$[*]' COLUMNS (n int PATH '$.n', k FOR ORDINALITY, NESTED PATH '$.x' COLUMNS (y int PATH '$'))) AS t WHERE t.n > 1
---
SELECT EXISTS(SELECT 1 FROM log/*r log*/ WHERE what/*r log.what*/ = b.name/*r berth.name*/), NOT b.no/*r berth.no*/, -b.depth/*r berth.depth*/, b.name/*r berth.name*/ COLLATE utf8mb4_bin, BINARY b.name/*r berth.name*/ FROM berth/*r berth*/ b LIMIT 3 OFFSET 1
---
SELECT count(*) FROM gone/*! gone*/
---
SELECT b.no/*r berth.no*/ /* b.name */ FROM berth/*r berth*/ b # b.depth
WHERE b.harbour_id/*r berth.harbour_id*/ = 1 -- b.name
---
INSERT INTO berth/*w berth; w berth.no; w berth.name; w berth.depth; w berth.harbour_id*/ SELECT b.no/*r berth.no*/ + 1, b.name/*r berth.name*/, b.depth/*r berth.depth*/, b.harbour_id/*r berth.harbour_id*/ FROM berth/*r berth*/ b ON DUPLICATE KEY UPDATE berth.name/*w berth.name*/ = b.name/*r berth.name*/
---
SELECT b.no/*r berth.no*/ FROM (berth/*r berth*/ b JOIN (mooring/*r mooring*/ m JOIN harbour/*r harbour*/ h ON h.id/*r harbour.id*/ = m.id/*r mooring.id*/) ON m.berth_no/*r mooring.berth_no*/ = b.no/*r berth.no*/) WHERE h.code/*r harbour.code*/ = 'a' AND m.vessel/*r mooring.vessel*/ = 'b'
---
SELECT charge/*c charge*/(b.no/*r berth.no*/, (SELECT max(id/*r log.id*/) FROM log/*r log*/)), note/*c note*/(b.name/*r berth.name*/) FROM berth/*r berth*/ b ORDER BY charge/*c charge*/(b.depth/*r berth.depth*/), name/*r berth.name*/
---
CREATE VIEW v AS SELECT no/*r berth.no*/, name/*r berth.name*/ FROM berth/*r berth*/ WHERE depth/*r berth.depth*/ > 1 WITH LOCAL CHECK OPTION
---
SELECT lag(height/*r other.tide.height*/, 1) OVER (PARTITION BY id/*r other.tide.id*/ ORDER BY height/*r other.tide.height*/) FROM other.tide/*r other.tide*/ FOR SYSTEM_TIME AS OF TIMESTAMP '2026-01-01' WHERE id/*r other.tide.id*/ > 1
---
VALUES (1, 2), (3, (SELECT max(no/*r berth.no*/) FROM berth/*r berth*/))
---
SELECT no/*r berth.no*/ FROM berth/*r berth*/ PARTITION (p0, p1) WHERE name/*r berth.name*/ = 'x' PROCEDURE ANALYSE()
---
BEGIN NOT ATOMIC DECLARE x int; SELECT max(no/*r berth.no*/) INTO x FROM berth/*r berth*/; END
---
DO note/*c note*/((SELECT count(*) FROM berth/*r berth*/))
---
CREATE FUNCTION f(name varchar(9)) RETURNS int READS SQL DATA RETURN (SELECT max(depth/*r berth.depth*/) FROM berth/*r berth*/ WHERE berth.name/*r berth.name*/ = name)
---
SET @a = (SELECT max(no/*r berth.no*/) FROM berth/*r berth*/), @b = charge/*c charge*/(1)
---
CALL note/*c note*/((SELECT name/*r berth.name*/ FROM berth/*r berth*/ LIMIT 1), @x)
---
SELECT h.code/*r harbour.code*/ FROM harbour/*r harbour*/ h WHERE h.id/*r harbour.id*/ NOT IN (SELECT b.harbour_id/*r berth.harbour_id*/ FROM berth/*r berth*/ b WHERE b.harbour_id/*r berth.harbour_id*/ IS NOT NULL UNION SELECT id/*r log.id*/ FROM log/*r log*/) AND EXISTS (SELECT * FROM mooring/*r mooring*/ WHERE mooring.id/*r mooring.id*/ = h.id/*r harbour.id*/)
---
UPDATE berth/*w berth*/ SET depth/*w berth.depth*/ = (SELECT avg(length/*r mooring.length*/) FROM mooring/*r mooring*/ WHERE mooring.berth_no/*r mooring.berth_no*/ = berth.no/*r berth.no*/) ORDER BY no/*r berth.no*/ LIMIT 1
---
CREATE PROCEDURE p(t varchar(64))
BEGIN
    DECLARE q text DEFAULT 'DELETE FROM log/*~w log*/';
    SET @s = concat('UPDATE berth/*~w berth*/ SET name/*~w berth.name*/ = ', quote(t));
    PREPARE s FROM @s;
    EXECUTE IMMEDIATE q;
    SELECT t INTO @u;
    PREPARE s FROM @u/*?*/;
END
