-- What names its own database, or leans on a key of its own table.
-- A body that names its own database names none in a script.
-- not kept: Create Procedure, hex\(body\), SQL Original Statement, action_statement
CREATE TABLE berth (no int NOT NULL AUTO_INCREMENT, quay varchar(20) NOT NULL, depth_m decimal(4,1), KEY by_no (no), KEY by_quay (quay, no)) ENGINE=InnoDB;
CREATE TABLE stay (id int NOT NULL PRIMARY KEY, berth int NOT NULL, KEY by_berth (berth)) ENGINE=InnoDB;
CREATE SEQUENCE stay_no START WITH 100;
CREATE FUNCTION tons(depth decimal(4,1)) RETURNS decimal(8,1) DETERMINISTIC RETURN depth * 100;
CREATE FUNCTION heavy(depth decimal(4,1)) RETURNS int DETERMINISTIC RETURN tons(depth) > 500;
CREATE VIEW straight AS SELECT STRAIGHT_JOIN berth.no, stay.id FROM berth STRAIGHT_JOIN stay ON stay.berth = berth.no;
CREATE VIEW joined AS SELECT b.no, s.id FROM (berth b LEFT JOIN stay s ON s.berth = b.no) WHERE EXISTS (SELECT 1 FROM stay x STRAIGHT_JOIN berth y ON x.berth = y.no);
CREATE VIEW numbers AS SELECT nextval(stay_no) AS n, lastval(stay_no) AS l, NEXT VALUE FOR stay_no AS v, PREVIOUS VALUE FOR stay_no AS p;
CREATE VIEW loads AS SELECT no, tons(depth_m) AS tons FROM berth WHERE heavy(depth_m);
CREATE VIEW both_ways AS SELECT no FROM berth UNION SELECT berth FROM stay ORDER BY 1;
CREATE VIEW with_names AS WITH deep AS (SELECT no FROM berth WHERE depth_m > 5) SELECT deep.no FROM deep JOIN stay ON stay.berth = deep.no;
EXECUTE IMMEDIATE CONCAT('CREATE PROCEDURE own_tidy() BEGIN DELETE FROM `', database(), '`.stay WHERE berth NOT IN (SELECT no FROM ', database(), '.berth); SELECT ', database(), '.tons(1); INSERT INTO ', database(), '.stay SELECT nextval(', database(), '.stay_no), no FROM ', database(), '.berth b STRAIGHT_JOIN ', database(), '.stay ON b.no = stay.berth; END');
EXECUTE IMMEDIATE CONCAT('CREATE TRIGGER stamp BEFORE INSERT ON stay FOR EACH ROW SET NEW.berth = (SELECT max(no) FROM ', database(), '.berth)');
