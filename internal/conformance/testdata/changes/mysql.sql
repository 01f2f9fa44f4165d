CREATE TABLE quay (id int NOT NULL AUTO_INCREMENT PRIMARY KEY, name varchar(40) NOT NULL, code varchar(8), UNIQUE KEY by_code (code));
CREATE TABLE berth (no int NOT NULL, quay_id int NOT NULL, depth decimal(6,2) DEFAULT 3.00, label varchar(20), status enum('free','taken') NOT NULL DEFAULT 'free', note text, made timestamp NULL DEFAULT NULL,
    area decimal(10,2) GENERATED ALWAYS AS (depth * 2) STORED, PRIMARY KEY (no), KEY at_quay (quay_id), KEY by_label (label), CONSTRAINT berth_quay FOREIGN KEY (quay_id) REFERENCES quay (id), CONSTRAINT deep CHECK (depth > 0));
CREATE TABLE mooring (id bigint NOT NULL AUTO_INCREMENT, berth_no int, since date, PRIMARY KEY (id), KEY at_berth (berth_no), CONSTRAINT at_berth FOREIGN KEY (berth_no) REFERENCES berth (no) ON DELETE CASCADE);
CREATE VIEW deep AS SELECT no, depth, label FROM berth WHERE depth > 3;
CREATE VIEW deepest AS SELECT max(depth) AS most FROM deep;
CREATE FUNCTION fee(d decimal(6,2)) RETURNS decimal(8,2) DETERMINISTIC RETURN d * 2;
CREATE TRIGGER stamp BEFORE UPDATE ON berth FOR EACH ROW SET NEW.note = 'x';
CREATE TRIGGER stamp_2 BEFORE UPDATE ON berth FOR EACH ROW SET NEW.made = now();
CREATE EVENT tidy ON SCHEDULE EVERY 1 DAY STARTS '2026-01-01 03:00:00' DISABLE DO DELETE FROM mooring WHERE since IS NULL;
INSERT INTO quay (name, code) VALUES ('north', 'N'), ('south', 'S');
INSERT INTO berth (no, quay_id, depth, label) VALUES (1, 1, 4, '12'), (2, 2, 2.5, '13');
INSERT INTO mooring (berth_no, since) VALUES (1, '2024-02-03'), (2, '2024-05-06');

-- change: a column
ALTER TABLE berth ADD COLUMN draught decimal(5,1);
-- change: a column with a default in the middle
ALTER TABLE berth ADD COLUMN draught decimal(5,1) NOT NULL DEFAULT 1 COMMENT 'in m' AFTER depth;
-- change: an order of columns
ALTER TABLE berth MODIFY COLUMN label varchar(20) FIRST;
-- change: a type
ALTER TABLE berth MODIFY COLUMN label varchar(60) NOT NULL DEFAULT 'x';
-- change: values of an enum
ALTER TABLE berth MODIFY COLUMN status enum('free','taken','closed') NOT NULL DEFAULT 'free';
-- change: a character set
ALTER TABLE quay MODIFY COLUMN name varchar(40) CHARACTER SET latin1 COLLATE latin1_bin NOT NULL;
-- change: an expression
ALTER TABLE berth MODIFY COLUMN area decimal(10,2) GENERATED ALWAYS AS (depth * 3) STORED;
-- change: a column that is computed
ALTER TABLE berth DROP COLUMN area; ALTER TABLE berth ADD COLUMN area decimal(10,2) GENERATED ALWAYS AS (depth * 2) VIRTUAL;
-- change: no column
ALTER TABLE berth DROP COLUMN made; DROP TRIGGER stamp_2;
-- change: a time that moves along
ALTER TABLE berth MODIFY COLUMN made timestamp NULL DEFAULT CURRENT_TIMESTAMP ON UPDATE CURRENT_TIMESTAMP;
-- change: a comment
ALTER TABLE berth COMMENT 'where it is', MODIFY COLUMN label varchar(20) COMMENT 'x';
-- change: a primary key on which others rest
ALTER TABLE mooring DROP FOREIGN KEY at_berth; ALTER TABLE berth DROP PRIMARY KEY, ADD PRIMARY KEY (no, quay_id), ADD UNIQUE KEY one_no (no); ALTER TABLE mooring ADD CONSTRAINT at_berth FOREIGN KEY (berth_no) REFERENCES berth (no) ON DELETE CASCADE;
-- change: a unique key
ALTER TABLE berth ADD UNIQUE KEY one_label (label, no);
-- change: another unique key
ALTER TABLE quay DROP KEY by_code, ADD UNIQUE KEY by_code (code, name);
-- change: a foreign key
ALTER TABLE mooring DROP FOREIGN KEY at_berth; ALTER TABLE mooring ADD CONSTRAINT at_berth FOREIGN KEY (berth_no) REFERENCES berth (no) ON DELETE SET NULL ON UPDATE CASCADE;
-- change: no foreign key and no index
ALTER TABLE mooring DROP FOREIGN KEY at_berth; ALTER TABLE mooring DROP KEY at_berth;
-- change: a check
ALTER TABLE berth DROP CONSTRAINT deep; ALTER TABLE berth ADD CONSTRAINT deep CHECK (depth > 1); ALTER TABLE berth ADD CONSTRAINT more CHECK (no > 0);
-- change: a check of a column
ALTER TABLE berth MODIFY COLUMN label varchar(20) CHECK (label <> '');
-- change: an index
ALTER TABLE berth DROP KEY by_label, ADD KEY by_label (label(5), no);
-- change: an index that a foreign key needs
ALTER TABLE berth DROP FOREIGN KEY berth_quay, DROP KEY at_quay; ALTER TABLE berth ADD KEY at_quay (quay_id, label), ADD CONSTRAINT berth_quay FOREIGN KEY (quay_id) REFERENCES quay (id);
-- change: a full-text index
CREATE FULLTEXT INDEX words ON berth (note) COMMENT 'y';
-- change: options
ALTER TABLE berth ROW_FORMAT=DYNAMIC, STATS_PERSISTENT=1;
-- change: an engine
ALTER TABLE quay AUTO_INCREMENT=1; CREATE TABLE plain (a int) ENGINE=MyISAM;
-- change: no numbers
ALTER TABLE mooring MODIFY COLUMN id bigint NOT NULL;
-- change: partitions
CREATE TABLE log (at date NOT NULL) PARTITION BY RANGE (year(at)) (PARTITION p0 VALUES LESS THAN (2024), PARTITION p1 VALUES LESS THAN MAXVALUE);
-- change: a view
CREATE OR REPLACE VIEW deep AS SELECT no, depth, label, note FROM berth WHERE depth > 2;
-- change: a view on a new column
ALTER TABLE berth ADD COLUMN x int; CREATE OR REPLACE VIEW deepest AS SELECT max(x) AS most FROM berth;
-- change: a function
DROP FUNCTION fee; CREATE FUNCTION fee(d decimal(6,2), e int) RETURNS decimal(9,3) DETERMINISTIC RETURN d * 3;
-- change: a trigger
DROP TRIGGER stamp_2; CREATE TRIGGER stamp_2 BEFORE UPDATE ON berth FOR EACH ROW SET NEW.made = NULL;
-- change: an event
ALTER EVENT tidy ON SCHEDULE EVERY 2 DAY DISABLE;
-- change: a table
CREATE TABLE `tariff list` (id int PRIMARY KEY, berth_no int, `unit price` decimal(8,2), KEY by_price (`unit price`), FOREIGN KEY (berth_no) REFERENCES berth (no)); CREATE VIEW prices AS SELECT `unit price` FROM `tariff list`;
-- change: tables that refer to each other
CREATE TABLE a (id int PRIMARY KEY, b int, KEY (b)); CREATE TABLE b (id int PRIMARY KEY, a int, FOREIGN KEY (a) REFERENCES a (id)); ALTER TABLE a ADD FOREIGN KEY (b) REFERENCES b (id);
-- change: a name
RENAME TABLE mooring TO tie;
-- change: a column's name
ALTER TABLE mooring RENAME COLUMN since TO since_day;
-- change: a default that is computed
ALTER TABLE berth MODIFY COLUMN label varchar(20) DEFAULT (concat('b', 1));
-- change: a nullable column
ALTER TABLE berth MODIFY COLUMN status enum('free','taken') NULL;
-- change: an unsigned number
ALTER TABLE mooring MODIFY COLUMN id bigint unsigned NOT NULL AUTO_INCREMENT;
-- change: an invisible column
ALTER TABLE berth MODIFY COLUMN note text INVISIBLE;
-- change: a prefix of an index
DROP INDEX by_label ON berth; CREATE INDEX by_label ON berth (label(5));
-- change: an index that is ignored
ALTER TABLE berth ALTER INDEX by_label INVISIBLE;
-- change: an index with a comment
DROP INDEX by_label ON berth; CREATE INDEX by_label ON berth (label) COMMENT 'by label';
-- change: the collation of a table
ALTER TABLE quay DEFAULT COLLATE utf8mb4_bin;
-- change: a row format, one way: the size of blocks stays with the keys
ALTER TABLE quay ROW_FORMAT=COMPRESSED KEY_BLOCK_SIZE=8;
-- change: a procedure
CREATE PROCEDURE tidy(IN days int, OUT n int) MODIFIES SQL DATA COMMENT 'at night' SELECT count(*) INTO n FROM mooring WHERE since < now() - INTERVAL days DAY;
-- change: a function's rights and traits
DROP FUNCTION fee; CREATE FUNCTION fee(d decimal(6,2)) RETURNS decimal(8,2) NO SQL SQL SECURITY INVOKER RETURN d * 2;
-- change: a trigger in front of another
DROP TRIGGER stamp_2; CREATE TRIGGER stamp_0 BEFORE UPDATE ON berth FOR EACH ROW PRECEDES stamp SET NEW.made = now();
-- change: an event that runs once
DROP EVENT tidy; CREATE EVENT tidy ON SCHEDULE AT '2038-01-01 00:00:00' ON COMPLETION PRESERVE DISABLE DO DELETE FROM mooring;
-- change: a view that checks
CREATE OR REPLACE ALGORITHM=MERGE SQL SECURITY INVOKER VIEW deep AS SELECT no, depth, label FROM berth WHERE depth > 3 WITH CASCADED CHECK OPTION;
-- change: a foreign key to a column that is unique
ALTER TABLE mooring ADD COLUMN quay_code varchar(8), ADD KEY of_quay (quay_code), ADD CONSTRAINT of_quay FOREIGN KEY (quay_code) REFERENCES quay (code) ON UPDATE CASCADE;
-- change: a spatial index
CREATE TABLE place (id int PRIMARY KEY, spot point NOT NULL SRID 4326); CREATE SPATIAL INDEX by_spot ON place (spot);
-- change: a check that is not enforced
ALTER TABLE berth ALTER CHECK deep NOT ENFORCED;
-- change: a check that is added and not enforced
ALTER TABLE berth ADD CONSTRAINT wide CHECK (no < 1000) NOT ENFORCED;
-- change: an index of an expression
CREATE INDEX by_lower ON berth ((lower(label)) DESC, no);
-- change: a unique index of an expression
CREATE UNIQUE INDEX one_lower ON quay ((lower(name)));
-- change: a default that is an expression
ALTER TABLE berth MODIFY COLUMN note text DEFAULT (concat('since ', 1)), ADD COLUMN token json DEFAULT (json_object('a', 1));
-- change: a computed column that has a value
ALTER TABLE berth ADD COLUMN name_of varchar(60) GENERATED ALWAYS AS (concat(coalesce(label, 'it\'s'), '!')) STORED NOT NULL;
-- change: restrict in the place of nothing
ALTER TABLE mooring DROP FOREIGN KEY at_berth; ALTER TABLE mooring ADD CONSTRAINT at_berth FOREIGN KEY (berth_no) REFERENCES berth (no) ON DELETE RESTRICT ON UPDATE NO ACTION;
-- change: sub-partitions
CREATE TABLE by_day (id int NOT NULL, at date NOT NULL) PARTITION BY RANGE (to_days(at)) SUBPARTITION BY HASH (id) SUBPARTITIONS 2 (PARTITION p0 VALUES LESS THAN (740000), PARTITION p1 VALUES LESS THAN MAXVALUE);
-- change: steps of growth
ALTER TABLE quay AUTOEXTEND_SIZE=4M;
-- change: a system of coordinates
ALTER TABLE berth ADD COLUMN spot point SRID 4326;
-- change: a view of a rollup
CREATE VIEW summed AS SELECT quay_id, sum(depth) AS depth FROM berth GROUP BY quay_id WITH ROLLUP;
-- change: a view that is laid by
CREATE OR REPLACE ALGORITHM=TEMPTABLE VIEW deepest AS SELECT max(depth) AS most FROM deep;
-- change: a multi-valued index
ALTER TABLE quay ADD COLUMN tags json; CREATE INDEX by_tags ON quay ((cast(tags->'$.t' AS unsigned array)));
