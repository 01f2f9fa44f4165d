-- What MySQL 8.0 to 9 brought to tables: vectors, keys that nobody wrote, multi-valued indexes, defaults that are expressions.
CREATE TABLE embedded (id int PRIMARY KEY, v vector(3) NOT NULL, w vector);
SET sql_generate_invisible_primary_key = ON;
CREATE TABLE unkeyed (a int, b varchar(9));
SET sql_generate_invisible_primary_key = OFF;
CREATE TABLE since_8 (id int, a int CHECK (a > 0), j json, n int GENERATED ALWAYS AS (j->>'$.n') VIRTUAL, KEY falling (a DESC, id), UNIQUE KEY one ((cast(j->'$.k' AS char(20)))), KEY many ((cast(j->'$.t' AS date array)), a));
CREATE TABLE by_columns (a int, b date, c varchar(9)) PARTITION BY LIST COLUMNS (a, c) (PARTITION p1 VALUES IN ((1, 'x'), (2, NULL)), PARTITION p2 VALUES IN ((3, 'it''s')));
CREATE TABLE by_expression (id int NOT NULL, at timestamp NOT NULL) PARTITION BY RANGE (unix_timestamp(at)) (PARTITION p0 VALUES LESS THAN (1767225600), PARTITION p1 VALUES LESS THAN (MAXVALUE));
CREATE TABLE `my row` (id int PRIMARY KEY, `from` date, `to` date, CONSTRAINT `in order` CHECK (`from` < `to`), KEY `by ``to``` (`to` DESC) COMMENT 'the last one first') COMMENT = 'names that are words';
CREATE TABLE defaults_of (id int PRIMARY KEY, a datetime(6) DEFAULT (now(6) + interval 1 day), b json DEFAULT (json_array()), c point DEFAULT (st_geomfromtext('POINT(0 0)')), d varchar(36) DEFAULT (uuid()), e decimal(20,10) DEFAULT (pi() * 2), f blob DEFAULT (x'00ff'), g tinyint(1) DEFAULT (true), h time DEFAULT (current_time));
