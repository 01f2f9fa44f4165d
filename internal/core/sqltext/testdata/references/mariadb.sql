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
