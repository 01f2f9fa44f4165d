CREATE TABLE mooring (id INT PRIMARY KEY, berth INT, draught DECIMAL(3,1), note VARCHAR(40));
CREATE TABLE log (at DATETIME, what VARCHAR(80));
CREATE VIEW z_first AS SELECT id, berth FROM mooring WHERE draught > 2 AND note <> 'FROM log';
CREATE VIEW a_second AS SELECT b.id AS `Mooring No`, count(*) AS n, (SELECT max(at) FROM log) AS latest FROM z_first b JOIN mooring m USING (id) GROUP BY 1;
CREATE ALGORITHM=MERGE SQL SECURITY INVOKER VIEW checked (x, y) AS SELECT id, berth FROM mooring WHERE berth > 0 WITH LOCAL CHECK OPTION;
CREATE ALGORITHM=TEMPTABLE VIEW with_cte AS WITH RECURSIVE c (n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM c WHERE n < 3) SELECT c.n FROM c;
DELIMITER //
CREATE TRIGGER stamp BEFORE UPDATE ON mooring FOR EACH ROW BEGIN
    IF NEW.note <> OLD.note THEN
        INSERT INTO log VALUES (now(), concat('it''s; ', NEW.note));
    END IF;
    SET NEW.draught = OLD.draught;
END//
SET sql_mode = 'ANSI_QUOTES,PIPES_AS_CONCAT'//
CREATE TRIGGER "stamp two" BEFORE UPDATE ON mooring FOR EACH ROW FOLLOWS stamp SET NEW.note = 'a' || "NEW".note//
SET sql_mode = default//
CREATE TRIGGER gone AFTER DELETE ON mooring FOR EACH ROW DELETE FROM log WHERE what = OLD.note//
DELIMITER ;
