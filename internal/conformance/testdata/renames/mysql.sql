CREATE TABLE harbour (id int PRIMARY KEY, code varchar(9) NOT NULL, opened date);
CREATE TABLE berth (id int PRIMARY KEY, harbour_id int, label varchar(20), depth_m decimal(6,2), CHECK (depth_m > 0), FOREIGN KEY (harbour_id) REFERENCES harbour (id));
CREATE TABLE mooring (id int PRIMARY KEY AUTO_INCREMENT, berth_id int, vessel varchar(20), draught_m decimal(6,2), note varchar(50), FOREIGN KEY (berth_id) REFERENCES berth (id));
CREATE TABLE log (at int, what varchar(90));
INSERT INTO harbour VALUES (1, 'HOL', '2020-01-01'), (2, 'SKR', NULL);
INSERT INTO berth VALUES (1, 1, 'north', 7), (2, 1, 'south', 5), (3, 2, 'inner', 3);
INSERT INTO mooring (berth_id, vessel, draught_m) VALUES (1, 'Tern', 4), (2, 'Gull', 5.5), (3, 'Auk', 2);
CREATE VIEW deep AS SELECT b.*, h.code FROM berth b JOIN harbour h ON h.id = b.harbour_id WHERE b.depth_m > 4;
CREATE VIEW deeper AS SELECT deep.label, deep.depth_m + berth.depth_m AS twice FROM deep JOIN berth ON berth.id = deep.id;
DELIMITER //
CREATE TRIGGER first_note BEFORE UPDATE ON mooring FOR EACH ROW BEGIN
    IF NOT (NEW.draught_m <=> OLD.draught_m) THEN INSERT INTO log (at, what) VALUES (NEW.id, concat(OLD.vessel, ' ', NEW.draught_m)); END IF;
    SET NEW.note = concat(coalesce(NEW.note, ''), 'a');
END //
CREATE TRIGGER second_note BEFORE UPDATE ON mooring FOR EACH ROW SET NEW.note = concat(coalesce(NEW.note, ''), 'b') //
CREATE FUNCTION probe_derived() RETURNS text READS SQL DATA
    RETURN (SELECT group_concat(d.label, d.depth_m, d.half ORDER BY d.id) FROM (SELECT *, depth_m / 2 AS half FROM berth) d WHERE d.depth_m > 2) //
CREATE FUNCTION probe_named() RETURNS text READS SQL DATA
    RETURN (WITH x AS (SELECT id, depth_m, label FROM berth), y(a, b) AS (SELECT id, depth_m FROM berth)
    SELECT group_concat(x.label, x.depth_m, y.b ORDER BY x.id) FROM x JOIN y ON y.a = x.id) //
CREATE FUNCTION probe_qualified() RETURNS text READS SQL DATA
    RETURN (SELECT group_concat(q.label, q.n ORDER BY q.id) FROM (SELECT berth.id, berth.label, (SELECT count(*) FROM mooring WHERE berth_id = berth.id AND mooring.draught_m < berth.depth_m) AS n FROM berth) q) //
CREATE FUNCTION probe_loop() RETURNS text READS SQL DATA
BEGIN
    DECLARE said text DEFAULT ''; DECLARE done int DEFAULT 0; DECLARE l varchar(20); DECLARE d decimal(6,2); DECLARE one_l varchar(20); DECLARE one_d decimal(6,2);
    DECLARE c CURSOR FOR SELECT label, depth_m FROM berth ORDER BY id;
    DECLARE CONTINUE HANDLER FOR NOT FOUND SET done = 1;
    OPEN c;
    reading: LOOP FETCH c INTO l, d; IF done THEN LEAVE reading; END IF; SET said = concat(said, l, d); END LOOP;
    CLOSE c;
    SELECT label, depth_m INTO one_l, one_d FROM berth WHERE id = 2;
    SELECT max(depth_m) INTO d FROM berth;
    RETURN concat(said, d, one_l, one_d);
END //
CREATE FUNCTION probe_writes() RETURNS text MODIFIES SQL DATA
BEGIN
    INSERT INTO berth (id, harbour_id, label, depth_m) VALUES (9, 2, 'outer', 8) ON DUPLICATE KEY UPDATE depth_m = VALUES(depth_m) + berth.depth_m, label = 'again';
    UPDATE mooring m JOIN berth b ON b.id = m.berth_id SET m.draught_m = m.draught_m + b.depth_m WHERE b.depth_m > 6;
    DELETE mooring FROM mooring JOIN berth ON mooring.berth_id = berth.id WHERE berth.depth_m < 4;
    RETURN concat((SELECT group_concat(vessel, draught_m, coalesce(note, '') ORDER BY id) FROM mooring), (SELECT group_concat(what ORDER BY at) FROM log),
        (SELECT group_concat(label, depth_m ORDER BY id) FROM berth));
END //
CREATE FUNCTION probe_views() RETURNS text READS SQL DATA RETURN concat((SELECT sum(twice) FROM deeper), (SELECT group_concat(depth_m, code ORDER BY id) FROM deep)) //
CREATE PROCEDURE deepen(by_m int) BEGIN UPDATE berth SET depth_m = depth_m + by_m; SELECT depth_m FROM berth; END //
CREATE FUNCTION shown(x int) RETURNS text READS SQL DATA RETURN (SELECT label FROM berth WHERE id = x AND depth_m IN (SELECT b.depth_m FROM berth b)) //
CREATE FUNCTION probe_calls() RETURNS text READS SQL DATA RETURN concat(shown(1), shown(3)) //
CREATE PROCEDURE unseen(t text) BEGIN SET @asked = concat('SELECT count(*) FROM ', t); PREPARE asked FROM @asked; EXECUTE asked; END //
CREATE FUNCTION joined() RETURNS int READS SQL DATA RETURN (SELECT count(*) FROM berth JOIN (SELECT 7 AS depth_m) x USING (depth_m)) //
CREATE FUNCTION taken(new_name int) RETURNS int READS SQL DATA RETURN (SELECT count(*) FROM berth WHERE depth_m > new_name) //
DELIMITER ;
