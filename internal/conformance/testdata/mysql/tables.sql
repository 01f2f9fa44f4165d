-- Tables of MySQL: checks, partitions, functional and invisible indexes, generated columns, defaults, and what it writes otherwise than MariaDB.
CREATE TABLE berth (
    id int unsigned NOT NULL AUTO_INCREMENT,
    name varchar(40) NOT NULL DEFAULT 'it''s',
    back varchar(40) DEFAULT 'a\\b "c" \n d',
    depth decimal(6,2) CHECK (depth > 0),
    tide enum('low','it''s high') NOT NULL DEFAULT 'low',
    code char(3) CHARACTER SET latin1 COLLATE latin1_bin,
    made datetime(3) DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
    word varchar(30) DEFAULT 'CURRENT_TIMESTAMP',
    stamp timestamp NULL DEFAULT NULL,
    key_of binary(16) DEFAULT (uuid_to_bin(uuid())),
    note text DEFAULT (_utf8mb4'fair'),
    extra json DEFAULT (json_object('a', 1)),
    bits bit(4) DEFAULT b'1010',
    bytes varbinary(8) DEFAULT 0x00FF41,
    place point NOT NULL SRID 4326,
    twice decimal(7,2) GENERATED ALWAYS AS (depth * 2) VIRTUAL,
    label varchar(100) GENERATED ALWAYS AS (concat(name, ' \'quoted\' \\ ', code)) STORED NOT NULL COMMENT 'made up; it\'s',
    hidden int INVISIBLE DEFAULT 3,
    tiny tinyint(1) DEFAULT 1,
    y year DEFAULT 2026,
    PRIMARY KEY (id),
    UNIQUE KEY by_name (name(10), depth DESC),
    KEY lowered ((lower(name))),
    KEY summed ((depth + 1) DESC, code),
    KEY unseen (tide) INVISIBLE COMMENT 'not used',
    FULLTEXT KEY words (name) WITH PARSER ngram,
    SPATIAL KEY places (place),
    KEY of_extra ((cast(extra->'$.a' as unsigned array))),
    CONSTRAINT deep CHECK (depth < 1000 AND name <> 'x\'y') NOT ENFORCED,
    CONSTRAINT either CHECK (tide = 'low' OR depth > 2)
) COMMENT='every berth; it''s long' ROW_FORMAT=DYNAMIC STATS_PERSISTENT=1 COLLATE=utf8mb4_0900_as_ci;
CREATE TABLE mooring (
    berth int unsigned NOT NULL, ship int NOT NULL, no int,
    CONSTRAINT at_berth FOREIGN KEY (berth) REFERENCES berth (id) ON DELETE CASCADE ON UPDATE RESTRICT,
    CONSTRAINT no_action FOREIGN KEY (no) REFERENCES mooring (ship) ON DELETE NO ACTION ON UPDATE SET NULL,
    UNIQUE KEY (ship), PRIMARY KEY (berth, ship)
) CHARACTER SET latin1;
CREATE TABLE log_of (id int NOT NULL, day date NOT NULL, isle varchar(20) NOT NULL, PRIMARY KEY (id, day))
PARTITION BY RANGE (year(day)) SUBPARTITION BY HASH (id) SUBPARTITIONS 2 (PARTITION p25 VALUES LESS THAN (2026) COMMENT = 'it''s over', PARTITION rest VALUES LESS THAN MAXVALUE);
CREATE TABLE by_isle (id int, isle varchar(20)) PARTITION BY LIST COLUMNS (isle) (PARTITION a VALUES IN ('Holm', 'Skerry'), PARTITION b VALUES IN ('Outer', NULL));
CREATE TABLE by_key (id int PRIMARY KEY) PARTITION BY KEY (id) PARTITIONS 3;
CREATE TABLE by_hash (id int, d date) PARTITION BY LINEAR HASH (id) PARTITIONS 4;
CREATE TABLE columns_of (a int, b varchar(9)) PARTITION BY RANGE COLUMNS (a, b) (PARTITION p0 VALUES LESS THAN (10, 'm'), PARTITION p1 VALUES LESS THAN (MAXVALUE, MAXVALUE));
CREATE TABLE in_memory (id int PRIMARY KEY, k int, KEY (k) USING BTREE) ENGINE=MEMORY MAX_ROWS=1000;
CREATE TABLE in_csv (a int NOT NULL, b varchar(10) NOT NULL) ENGINE=CSV;
CREATE TABLE archived (id int NOT NULL AUTO_INCREMENT, note varchar(20), PRIMARY KEY (id)) ENGINE=ARCHIVE;
CREATE TABLE pressed (id int PRIMARY KEY, body text) ROW_FORMAT=COMPRESSED KEY_BLOCK_SIZE=8;
CREATE TABLE encrypted_not (id int PRIMARY KEY) AUTOEXTEND_SIZE=4M;
CREATE TABLE odd (`select` int, `a``b` int, `with blank` varchar(5) COLLATE utf8mb4_bin COMMENT 'x;\ny', PRIMARY KEY (`a``b`));
CREATE TABLE dates (d date DEFAULT (curdate()), t time(2) DEFAULT '01:02:03.45', n double DEFAULT (1 + 2), s set('a','b') DEFAULT 'a,b', f float DEFAULT 1.5, z datetime DEFAULT '2026-01-01 00:00:00', negative int DEFAULT -5, nothing varchar(5) DEFAULT NULL, emptied varchar(5) DEFAULT '');
CREATE TABLE letters (`ünter` varchar(20) COLLATE utf8mb4_bin, CHECK (`ünter` <> 'ß€'), longer varchar(50) AS (concat(`ünter`, 'ß', '漢字')), kept varchar(20) DEFAULT (concat('Å', 'å')), plain varchar(20) DEFAULT 'ü€漢', KEY small ((lower(concat(`ünter`, 'É')))), KEY either ((case when `ünter` = 'Ü' then 1 end) DESC));
