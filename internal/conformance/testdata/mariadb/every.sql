-- What few people use of MariaDB, and what its views of information_schema show otherwise than it was typed.
INSTALL PLUGIN IF NOT EXISTS archive SONAME 'ha_archive';
CREATE TABLE archived (id int NOT NULL AUTO_INCREMENT, note varchar(20) DEFAULT 'x\\y', PRIMARY KEY (id)) ENGINE=ARCHIVE;
CREATE TABLE part_a (id int NOT NULL, note varchar(20), KEY (id)) ENGINE=MyISAM;
CREATE TABLE part_b (id int NOT NULL, note varchar(20), KEY (id)) ENGINE=MyISAM;
CREATE TABLE whole (id int NOT NULL, note varchar(20), KEY (id)) ENGINE=MERGE UNION=(part_a,part_b) INSERT_METHOD=LAST;
CREATE TABLE pressed (id int PRIMARY KEY, body text, KEY by_body (body(20)) KEY_BLOCK_SIZE=4) ENGINE=InnoDB ROW_FORMAT=COMPRESSED KEY_BLOCK_SIZE=8;
CREATE TABLE transact (id int PRIMARY KEY) ENGINE=Aria TRANSACTIONAL=1 PAGE_CHECKSUM=1;
CREATE TABLE not_transact (id int PRIMARY KEY) ENGINE=Aria TRANSACTIONAL=0;
CREATE TABLE plain_aria (id int PRIMARY KEY) ENGINE=Aria;
CREATE SEQUENCE numbered START WITH 5 INCREMENT BY 5 COMMENT='numbers; it''s said' ENGINE=MyISAM;
CREATE SEQUENCE usual_numbers;
CREATE TABLE taken (id bigint DEFAULT nextval(usual_numbers) PRIMARY KEY, said varchar(100));
CREATE VIEW numbers AS SELECT nextval(usual_numbers) AS n, id FROM taken;
CREATE VIEW said_latin AS SELECT _latin1'caf\xe9' AS a, _binary'x\\y' AS b, x'00FF' AS c, 'it''s \\ "q"' AS d, '\n\t' AS e FROM taken;
DELIMITER //
CREATE FUNCTION writes(n int) RETURNS int MODIFIES SQL DATA BEGIN INSERT INTO taken (said) VALUES (_latin1'w\\x'); RETURN n; END//
CREATE TRIGGER taken_added BEFORE INSERT ON taken FOR EACH ROW SET NEW.said = concat(_latin1'caf', '\\ it''s', "\\ q", NEW.said, '\n')//
CREATE EVENT swept ON SCHEDULE EVERY 3 DAY DO DELETE FROM taken WHERE said = _utf8mb4'a\\b' OR said LIKE '%\_%'//
CREATE PROCEDURE listed(IN word varchar(20) CHARACTER SET latin1 COLLATE latin1_bin, OUT n int) BEGIN SELECT count(*) INTO n FROM taken WHERE said = _latin1'x\\'; END//
DELIMITER ;
CREATE TABLE usual (id bigint PRIMARY KEY);
CREATE VIEW joined AS SELECT a.id, b.said FROM taken a LEFT JOIN (taken b JOIN taken c ON b.id = c.id) ON a.id = b.id;
CREATE VIEW crossed AS SELECT a.id FROM taken a JOIN taken b JOIN taken c ON b.id = c.id AND a.id = b.id LEFT JOIN taken d ON d.id = a.id;
CREATE VIEW righted AS SELECT a.id FROM taken a RIGHT JOIN taken b ON a.id = b.id LEFT JOIN (taken c LEFT JOIN taken d ON c.id = d.id) ON c.id = b.id;
CREATE VIEW used AS SELECT a.id FROM taken a JOIN part_a b USING (id) NATURAL JOIN usual c;
CREATE TABLE versioned (id int PRIMARY KEY, a int) WITH SYSTEM VERSIONING;
CREATE VIEW of_then AS SELECT id FROM versioned FOR SYSTEM_TIME AS OF TIMESTAMP '2026-01-01 00:00:00';
CREATE VIEW of_all AS SELECT id, a FROM versioned FOR SYSTEM_TIME ALL;
CREATE TABLE parent_of (id int PRIMARY KEY, a int, g int AS (a + 1) PERSISTENT, UNIQUE KEY (g));
CREATE TABLE child_of (id int PRIMARY KEY, g int, CONSTRAINT to_computed FOREIGN KEY (g) REFERENCES parent_of (g));
CREATE TABLE child_computed (id int PRIMARY KEY, a int, g int AS (a + 1) PERSISTENT, CONSTRAINT from_computed FOREIGN KEY (g) REFERENCES parent_of (id));
