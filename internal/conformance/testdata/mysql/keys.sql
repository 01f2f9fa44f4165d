CREATE TABLE harbour (code CHAR(3) PRIMARY KEY, name VARCHAR(200), main_berth INT, body TEXT, place POINT NOT NULL,
    UNIQUE KEY by_name (name(20)), KEY long_name (name(10) DESC, code), FULLTEXT KEY words (body), SPATIAL KEY spot (place), KEY unused (main_berth, code) COMMENT 'it''s for later' INVISIBLE);
CREATE TABLE berth (id INT NOT NULL AUTO_INCREMENT, harbour CHAR(3) NOT NULL, no INT, PRIMARY KEY (id, no), UNIQUE KEY one_id (id), UNIQUE (harbour, no),
    CONSTRAINT in_harbour FOREIGN KEY (harbour) REFERENCES harbour (code) ON UPDATE CASCADE ON DELETE RESTRICT);
ALTER TABLE harbour ADD CONSTRAINT main FOREIGN KEY (main_berth) REFERENCES berth (id) ON DELETE SET NULL ON UPDATE NO ACTION;
CREATE TABLE pilot (id INT PRIMARY KEY, mentor INT, CONSTRAINT mentor_of FOREIGN KEY (mentor) REFERENCES pilot (id) ON DELETE CASCADE);
CREATE TABLE `duty roster` (`pilot no` INT, day DATE, h CHAR(3), n INT, PRIMARY KEY (`pilot no`, day), KEY same (h), FOREIGN KEY (`pilot no`) REFERENCES pilot (id));
CREATE TABLE other (x INT, KEY same (x), KEY pilot_k (x), FOREIGN KEY (x) REFERENCES pilot (id));
CREATE INDEX later ON other (x);
