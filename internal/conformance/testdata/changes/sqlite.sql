CREATE TABLE quay (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, code TEXT UNIQUE);
CREATE TABLE berth (no INTEGER PRIMARY KEY, quay_id INT NOT NULL REFERENCES quay (id), depth REAL DEFAULT 3, label TEXT, note TEXT, CONSTRAINT deep CHECK (depth > 0));
CREATE TABLE mooring (id INTEGER PRIMARY KEY, berth_no INT REFERENCES berth (no) ON DELETE CASCADE, since TEXT);
CREATE TABLE pair (a INT, b INT, c TEXT, PRIMARY KEY (a, b)) WITHOUT ROWID;
CREATE INDEX berth_label ON berth (label);
CREATE VIEW deep AS SELECT no, depth, label FROM berth WHERE depth > 3;
CREATE VIEW deepest AS SELECT max(depth) AS most FROM deep;
CREATE TRIGGER stamp AFTER UPDATE ON berth BEGIN UPDATE mooring SET since = 'x' WHERE berth_no = NEW.no; END;
CREATE TRIGGER other AFTER INSERT ON mooring BEGIN UPDATE berth SET note = 'y' WHERE no = NEW.berth_no; END;
INSERT INTO quay (name, code) VALUES ('north', 'N'), ('south', 'S');
INSERT INTO berth VALUES (1, 1, 4, '12', 'n'), (2, 2, 2.5, '13', NULL);
INSERT INTO mooring (berth_no, since) VALUES (1, '2024'), (2, '2025');
INSERT INTO pair VALUES (1, 2, 'x');

-- change: a column
ALTER TABLE mooring ADD COLUMN rope TEXT;
-- change: a column with a default
ALTER TABLE mooring ADD COLUMN rope TEXT NOT NULL DEFAULT 'long';
-- change: a generated column
ALTER TABLE mooring ADD COLUMN year TEXT GENERATED ALWAYS AS (substr(since, 1, 4)) VIRTUAL;
-- change: no column
ALTER TABLE berth DROP COLUMN note; DROP TRIGGER other; CREATE TRIGGER other AFTER INSERT ON mooring BEGIN UPDATE berth SET label = 'y' WHERE no = NEW.berth_no; END;
-- change: a type and a default
DROP VIEW deepest; DROP VIEW deep; ALTER TABLE berth RENAME TO x; CREATE TABLE berth (no INTEGER PRIMARY KEY, quay_id INT NOT NULL REFERENCES quay (id), depth INT DEFAULT 5, label TEXT, note TEXT, CONSTRAINT deep CHECK (depth > 0)); INSERT INTO berth SELECT * FROM x; DROP TABLE x; CREATE INDEX berth_label ON berth (label); DROP TABLE mooring; CREATE TABLE mooring (id INTEGER PRIMARY KEY, berth_no INT REFERENCES berth (no) ON DELETE CASCADE, since TEXT); INSERT INTO mooring (berth_no, since) VALUES (1, '2024'), (2, '2025'); CREATE TRIGGER stamp AFTER UPDATE ON berth BEGIN UPDATE mooring SET since = 'x' WHERE berth_no = NEW.no; END; CREATE TRIGGER other AFTER INSERT ON mooring BEGIN UPDATE berth SET note = 'y' WHERE no = NEW.berth_no; END; CREATE VIEW deep AS SELECT no, depth, label FROM berth WHERE depth > 3; CREATE VIEW deepest AS SELECT max(depth) AS most FROM deep;
-- change: not null, a key, a check, a foreign key
DROP TABLE mooring; CREATE TABLE mooring (id INTEGER PRIMARY KEY, berth_no INT NOT NULL REFERENCES berth (no) ON UPDATE CASCADE, since TEXT CHECK (since <> ''), UNIQUE (berth_no)); INSERT INTO mooring (berth_no, since) VALUES (1, '2024'), (2, '2025'); CREATE TRIGGER other AFTER INSERT ON mooring BEGIN UPDATE berth SET note = 'y' WHERE no = NEW.berth_no; END;
-- change: strict and with a rowid
DROP TABLE pair; CREATE TABLE pair (a INT, b INT, c TEXT, PRIMARY KEY (a)) STRICT; INSERT INTO pair VALUES (1, 2, 'x');
-- change: a collation and an order of columns
DROP TABLE pair; CREATE TABLE pair (a INT, c TEXT COLLATE NOCASE, b INT, PRIMARY KEY (a, b)) WITHOUT ROWID; INSERT INTO pair VALUES (1, 'x', 2);
-- change: an index
DROP INDEX berth_label; CREATE UNIQUE INDEX berth_label ON berth (label DESC) WHERE label IS NOT NULL;
-- change: another index
CREATE INDEX more ON mooring (since, berth_no);
-- change: a view
DROP VIEW deep; CREATE VIEW deep AS SELECT no, depth FROM berth WHERE depth > 2;
-- change: a trigger
DROP TRIGGER stamp; CREATE TRIGGER stamp BEFORE UPDATE OF label ON berth WHEN NEW.depth > 2 BEGIN SELECT 1; END;
-- change: a table
CREATE TABLE "tariff list" (id INTEGER PRIMARY KEY, berth_no INT REFERENCES berth (no), "unit price" REAL); CREATE INDEX "by price" ON "tariff list" ("unit price"); CREATE VIEW prices AS SELECT "unit price" FROM "tariff list";
-- change: tables that refer to each other
CREATE TABLE a (id INTEGER PRIMARY KEY, b INT REFERENCES b (id)); CREATE TABLE b (id INTEGER PRIMARY KEY, a INT REFERENCES a (id));
-- change: a virtual table
CREATE VIRTUAL TABLE notes USING fts5 (line);
-- change: a name
ALTER TABLE mooring RENAME TO tie;
-- change: a table for a view
DROP VIEW deepest; CREATE TABLE deepest (most REAL);
-- change: a column's name
ALTER TABLE berth RENAME COLUMN label TO title;
-- change: a column's name and more
DROP VIEW deepest; ALTER TABLE berth RENAME COLUMN depth TO depth_m; ALTER TABLE berth ADD COLUMN rings INT; CREATE VIEW deepest AS SELECT max(depth_m) AS most FROM deep;
-- change: names of a table and of columns
ALTER TABLE mooring RENAME COLUMN since TO since_day; ALTER TABLE mooring RENAME TO tie;
-- change: no index
DROP INDEX berth_label;
-- change: no view
DROP VIEW deepest;
-- change: no trigger
DROP TRIGGER stamp;
-- change: no table
DROP TABLE pair;
-- change: a trigger on a view
CREATE TRIGGER into_deep INSTEAD OF INSERT ON deep BEGIN INSERT INTO berth (no, quay_id, depth, label) VALUES (NEW.no, 1, NEW.depth, NEW.label); END;
-- change: an index of an expression
CREATE INDEX by_low ON berth (lower(label) COLLATE NOCASE, depth DESC);
-- change: a default that is computed
DROP TABLE mooring; CREATE TABLE mooring (id INTEGER PRIMARY KEY, berth_no INT REFERENCES berth (no) ON DELETE CASCADE, since TEXT DEFAULT (date('now'))); INSERT INTO mooring (berth_no, since) VALUES (1, '2024'), (2, '2025'); CREATE TRIGGER other AFTER INSERT ON mooring BEGIN UPDATE berth SET note = 'y' WHERE no = NEW.berth_no; END;
-- change: a foreign key that waits
DROP TABLE mooring; CREATE TABLE mooring (id INTEGER PRIMARY KEY, berth_no INT REFERENCES berth (no) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED, since TEXT); INSERT INTO mooring (berth_no, since) VALUES (1, '2024'), (2, '2025'); CREATE TRIGGER other AFTER INSERT ON mooring BEGIN UPDATE berth SET note = 'y' WHERE no = NEW.berth_no; END;
-- change: no automatic numbers
DROP VIEW deepest; DROP VIEW deep; DROP TABLE pair; CREATE TABLE pair (a INT, b INT, c TEXT, PRIMARY KEY (a, b)); CREATE VIEW deep AS SELECT no, depth, label FROM berth WHERE depth > 3; CREATE VIEW deepest AS SELECT max(depth) AS most FROM deep; INSERT INTO pair VALUES (1, 2, 'x');
