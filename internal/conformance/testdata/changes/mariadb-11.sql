CREATE TABLE embedded (id int PRIMARY KEY, v vector(3) NOT NULL, VECTOR INDEX near (v) M=8);
CREATE TABLE plain (id int PRIMARY KEY, v vector(3) NOT NULL, u uuid, net inet4);
CREATE SEQUENCE short_no AS smallint START WITH 5;
CREATE SEQUENCE usual_no;
INSERT INTO embedded VALUES (1, vec_fromtext('[1,2,3]')), (2, vec_fromtext('[3,2,1]'));
INSERT INTO plain VALUES (1, vec_fromtext('[1,2,3]'), uuid(), '10.0.0.1');

-- change: options of an index of vectors
ALTER TABLE embedded DROP INDEX near, ADD VECTOR INDEX near (v) M=6 DISTANCE=cosine;
-- change: no index of vectors
ALTER TABLE embedded DROP INDEX near;
-- change: an index of vectors
ALTER TABLE plain ADD VECTOR INDEX (v);
-- change: the type of a sequence
ALTER SEQUENCE short_no AS int;
-- change: a sequence of the usual type
DROP SEQUENCE short_no; CREATE SEQUENCE short_no START WITH 5 MAXVALUE 32766;
-- change: a type for a sequence
ALTER SEQUENCE usual_no MAXVALUE 100000; ALTER SEQUENCE usual_no AS int unsigned;
-- change: an address of the longer kind
ALTER TABLE plain MODIFY COLUMN net inet6;
-- change: a default of a UUID
ALTER TABLE plain MODIFY COLUMN u uuid NOT NULL DEFAULT uuid_v7();
-- change: an index in falling order
CREATE INDEX falling ON plain (u DESC, id);
-- change: collations of the new kind
ALTER TABLE plain ADD COLUMN said varchar(20) CHARACTER SET utf8mb4 COLLATE utf8mb4_uca1400_as_cs;
