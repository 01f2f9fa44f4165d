CREATE TABLE vessel (
    id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY COMMENT 'it''s a \\ number',
    name VARCHAR(80) CHARACTER SET latin1 COLLATE latin1_german1_ci NOT NULL DEFAULT 'it''s "new" \\ \n line',
    length_m DECIMAL(5,1) DEFAULT 4.5 CHECK (length_m > 0),
    kind ENUM('ferry','it''s','a,b') NOT NULL DEFAULT 'ferry',
    flags SET('a','b') NULL,
    area DOUBLE GENERATED ALWAYS AS (length_m * 2) STORED,
    twice DOUBLE AS (length_m * 2) VIRTUAL,
    secret INT INVISIBLE DEFAULT 3,
    made DATETIME(3) DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
    seen TIMESTAMP NULL DEFAULT NULL,
    stamped TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP ON UPDATE CURRENT_TIMESTAMP,
    note TEXT COLLATE utf8mb4_bin,
    expr VARCHAR(40) DEFAULT (concat('a', uuid())),
    payload JSON,
    bits BIT(3) DEFAULT b'101',
    bin VARBINARY(10) DEFAULT 'abc',
    zeros INT(6) UNSIGNED ZEROFILL,
    y YEAR, t TIME(2), g POINT,
    zero_date DATE DEFAULT '0000-00-00',
    CONSTRAINT both_checks CHECK (length_m < 400 AND name <> ')')
) ENGINE=InnoDB ROW_FORMAT=DYNAMIC COMMENT='every vessel that moors here';
CREATE TABLE small (a INT, b TEXT) ENGINE=Aria DEFAULT CHARSET=latin1 COMMENT='another engine';
CREATE TABLE mem (a INT, b INT, PRIMARY KEY USING HASH (a), KEY bh USING HASH (b), KEY bb USING BTREE (b)) ENGINE=MEMORY MAX_ROWS=100;
CREATE SEQUENCE ticket START WITH 10 INCREMENT BY 5 MINVALUE 1 MAXVALUE 1000 CACHE 20 CYCLE;
CREATE SEQUENCE plain NOCACHE;
CREATE TABLE takes (n BIGINT DEFAULT nextval(ticket), `odd ``name` INT, `select` INT, `with blank` INT);
