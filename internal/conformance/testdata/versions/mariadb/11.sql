-- What MariaDB brought from 10.7 to 11.8, after its release notes.
CREATE TABLE token (id uuid NOT NULL DEFAULT uuid(), net inet4 DEFAULT '10.0.0.1', net6 inet6 DEFAULT '::1', seen_by uuid, PRIMARY KEY (id), KEY by_net (net));
CREATE TABLE embedded (id int PRIMARY KEY, said text, v vector(3) NOT NULL, VECTOR INDEX near (v) M=8 DISTANCE=cosine);
CREATE TABLE embedded_plain (id int PRIMARY KEY, v vector(5) NOT NULL, VECTOR INDEX (v));
CREATE TABLE embedded_none (id int PRIMARY KEY, v vector(2) NULL);
CREATE TABLE ranked (id int PRIMARY KEY, score int, name varchar(20), KEY falling (score DESC, name ASC), UNIQUE KEY one_name (name DESC));
CREATE TABLE hidden_index (id int PRIMARY KEY, a int, KEY quiet (a) IGNORED, KEY loud (id, a) NOT IGNORED);
CREATE TABLE noted (id int PRIMARY KEY, body json CHECK (json_schema_valid('{"type": "object"}', body)), made timestamp(6) DEFAULT current_timestamp(6));
CREATE TABLE letters (id int PRIMARY KEY, a varchar(20) COLLATE utf8mb4_uca1400_ai_ci, b varchar(20) COLLATE utf8mb4_uca1400_as_cs, c varchar(20) CHARACTER SET utf8mb3 COLLATE utf8mb3_uca1400_nopad_ai_ci) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_uca1400_swedish_ai_ci;
CREATE TABLE told (id int PRIMARY KEY, at datetime(3) DEFAULT (current_timestamp(3) + interval 1 day), n int DEFAULT (1 + 2), u varchar(40) DEFAULT (concat('a', uuid())));
CREATE TABLE kept (id int PRIMARY KEY, x int) WITH SYSTEM VERSIONING PARTITION BY SYSTEM_TIME INTERVAL 1 MONTH STARTS '2026-01-01 00:00:00' AUTO PARTITIONS 3;
CREATE TABLE kept_limit (id int, x int) WITH SYSTEM VERSIONING PARTITION BY SYSTEM_TIME LIMIT 1000 (PARTITION p0 HISTORY, PARTITION p1 HISTORY, PARTITION now CURRENT);
CREATE TABLE stayed (berth int, from_day date, to_day date, PERIOD FOR stay (from_day, to_day), UNIQUE (berth, stay WITHOUT OVERLAPS));
CREATE TABLE by_range (id int NOT NULL, day date NOT NULL, PRIMARY KEY (id, day)) PARTITION BY RANGE COLUMNS (day) (PARTITION p0 VALUES LESS THAN ('2026-01-01'), PARTITION pm VALUES LESS THAN (MAXVALUE));
CREATE TABLE by_list (id int, isle varchar(20)) PARTITION BY LIST COLUMNS (isle) (PARTITION near VALUES IN ('Holm', NULL), PARTITION other DEFAULT);
CREATE TABLE by_key (id int PRIMARY KEY) PARTITION BY KEY ALGORITHM = 2 (id) PARTITIONS 4;
CREATE SEQUENCE short_no AS smallint unsigned START WITH 5 INCREMENT BY 5 CYCLE;
CREATE SEQUENCE long_no AS bigint unsigned MINVALUE 1 NOCACHE;
CREATE TABLE numbered (id bigint DEFAULT nextval(short_no) PRIMARY KEY, computed int GENERATED ALWAYS AS (id * 2) VIRTUAL, kept int GENERATED ALWAYS AS (id + 1) STORED, KEY (computed));
CREATE TABLE packed (id int PRIMARY KEY, body text COMPRESSED, bin varbinary(200) COMPRESSED=zlib) PAGE_COMPRESSED=1 PAGE_COMPRESSION_LEVEL=4;
CREATE TABLE unseen (id int PRIMARY KEY, secret int INVISIBLE DEFAULT 7, more varchar(9) INVISIBLE);
CREATE VIEW from_json AS SELECT j.a, j.b FROM json_table('[{"a": 1, "b": ["x"]}]', '$[*]' COLUMNS (n FOR ORDINALITY, a int PATH '$.a' DEFAULT '0' ON EMPTY NULL ON ERROR, NESTED PATH '$.b[*]' COLUMNS (b varchar(9) PATH '$'))) j;
CREATE VIEW tied AS SELECT id, score FROM ranked ORDER BY score OFFSET 1 ROW FETCH NEXT 3 ROWS WITH TIES;
CREATE VIEW shaped AS SELECT sformat('{} of {}', id, score) AS s, natural_sort_key(name) AS k, to_char(current_timestamp(), 'YYYY') AS y, crc32c('a') AS c FROM ranked;
CREATE VIEW json_of AS SELECT json_overlaps('[1]', '[1, 2]') AS o, json_normalize('{"b": 1, "a": 2}') AS n, json_key_value('{"a": 1}', '$') AS kv, json_object_to_array('{"a": 1}') AS arr FROM ranked;
CREATE VIEW near_of AS SELECT id, vec_distance_euclidean(v, vec_fromtext('[1,2,3]')) AS far, vec_totext(v) AS shown FROM embedded ORDER BY 2 LIMIT 5;
CREATE VIEW windowed AS SELECT id, ntile(2) OVER (ORDER BY score) AS t, first_value(name) OVER (PARTITION BY score ORDER BY id ROWS BETWEEN 1 PRECEDING AND CURRENT ROW) AS f FROM ranked;
CREATE VIEW excluded AS (SELECT id FROM ranked EXCEPT ALL SELECT id FROM noted) INTERSECT SELECT id FROM told;
CREATE VIEW recursed AS WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5) CYCLE i RESTRICT SELECT i FROM n;
CREATE VIEW random_of AS SELECT random_bytes(4) AS r, uuid_v4() AS u4, uuid_v7() AS u7, kdf('a', 'b', 1000) AS k FROM ranked;
DELIMITER //
CREATE PACKAGE tides
  FUNCTION height(at datetime) RETURNS decimal(5,2);
  PROCEDURE tell(IN n int, OUT said varchar(20));
END//
CREATE PACKAGE BODY tides
  DECLARE calls int DEFAULT 0;
  FUNCTION height(at datetime) RETURNS decimal(5,2) RETURN hour(at) / 2;
  PROCEDURE tell(IN n int, OUT said varchar(20)) BEGIN SET calls = calls + n; SET said = concat('it''s ', calls); END;
END//
CREATE FUNCTION row_of(n int) RETURNS int BEGIN DECLARE r ROW (a int, b varchar(9)); SET r.a = n; RETURN r.a; END//
CREATE PROCEDURE looped(OUT m int, IN n int DEFAULT 3) BEGIN SET m = 0; FOR i IN 1 .. n DO SET m = m + i; END FOR; END//
CREATE PROCEDURE cursed() BEGIN DECLARE c CURSOR (least int) FOR SELECT id FROM ranked WHERE id > least; FOR r IN c(3) DO SELECT r.id; END FOR; END//
CREATE TRIGGER ranked_added BEFORE INSERT ON ranked FOR EACH ROW BEGIN DECLARE x TYPE OF ranked.score; SET x = NEW.score; SET NEW.score = coalesce(x, 0); END//
DELIMITER ;
