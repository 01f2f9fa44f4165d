-- Views, routines, triggers and events of MySQL, with all escapes.
CREATE TABLE berth (id int PRIMARY KEY, name varchar(40), depth decimal(6,2));
CREATE TABLE log_of (id int AUTO_INCREMENT PRIMARY KEY, said varchar(200), at datetime DEFAULT CURRENT_TIMESTAMP);
CREATE VIEW deep AS SELECT id, name, depth FROM berth WHERE depth > 3 AND name <> 'it''s \\ "x"' WITH CASCADED CHECK OPTION;
CREATE ALGORITHM=MERGE SQL SECURITY INVOKER VIEW merged (a, b) AS SELECT b.id, l.said FROM berth b LEFT JOIN log_of l ON l.id = b.id;
CREATE ALGORITHM=TEMPTABLE VIEW rolled AS SELECT name, sum(depth) AS total FROM berth GROUP BY name WITH ROLLUP;
CREATE VIEW ranked AS SELECT id, rank() OVER (PARTITION BY name ORDER BY depth DESC) AS place FROM berth;
CREATE VIEW recursed AS WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5) SELECT i FROM n;
CREATE VIEW from_json AS SELECT j.a FROM JSON_TABLE('[{"a": 1}]', '$[*]' COLUMNS (a int PATH '$.a' DEFAULT '0' ON EMPTY, NESTED PATH '$.b[*]' COLUMNS (b int PATH '$'))) AS j;
CREATE VIEW latest AS SELECT b.id, x.said FROM berth b, LATERAL (SELECT said FROM log_of l WHERE l.id = b.id LIMIT 1) AS x;
CREATE VIEW on_view AS SELECT d.id FROM deep d JOIN ranked r ON r.id = d.id;
DELIMITER //
CREATE FUNCTION price(weight decimal(8,2), word varchar(10) CHARACTER SET latin1 COLLATE latin1_bin) RETURNS varchar(20) CHARSET utf8mb4 DETERMINISTIC COMMENT 'it''s dear'
BEGIN
  DECLARE s varchar(20) DEFAULT 'a\\b\'c"';
  RETURN concat(s, weight, "x");
END//
CREATE PROCEDURE tidy(IN n int, OUT m int, INOUT k int) MODIFIES SQL DATA SQL SECURITY INVOKER
BEGIN
  INSERT INTO log_of (said) VALUES ('tidied \\ it''s done\n');
  SELECT count(*) INTO m FROM berth WHERE id > n;
  SET k = k + 1;
END//
CREATE TRIGGER berth_added AFTER INSERT ON berth FOR EACH ROW
BEGIN
  INSERT INTO log_of (said) VALUES (concat('new \\ "', NEW.name, '" it''s', _latin1'caf'));
END//
CREATE TRIGGER berth_more AFTER INSERT ON berth FOR EACH ROW FOLLOWS berth_added SET @x = 'y\'z'//
CREATE EVENT sweep ON SCHEDULE EVERY 1 DAY STARTS '2026-01-01 03:00:00' ON COMPLETION PRESERVE COMMENT 'by night; it''s quiet' DO DELETE FROM log_of WHERE said = 'old \\ one'//
CREATE EVENT once ON SCHEDULE AT '2030-01-01 00:00:00' DISABLE DO BEGIN DELETE FROM log_of; END//
DELIMITER ;
CREATE JSON RELATIONAL DUALITY VIEW as_document AS SELECT JSON_DUALITY_OBJECT('_id': id, 'name': name) FROM berth;
DELIMITER //
CREATE LIBRARY tides COMMENT 'it''s old' LANGUAGE JAVASCRIPT AS $$ export function twice(x) { return x * 2 } $$//
CREATE FUNCTION tide_twice(n int) RETURNS int DETERMINISTIC LANGUAGE JAVASCRIPT USING (tides) AS $$ return tides.twice(n); $$//
CREATE PROCEDURE tide_js(IN n int) LANGUAGE JAVASCRIPT AS $$ let x = n + 1; $$//
DELIMITER ;
