CREATE TABLE "Ärmelkanal" (a, "Ö" text, "ö" int DEFAULT 1);
CREATE TABLE "ärmelkanal" (b INTEGER PRIMARY KEY, "Ö" REFERENCES "Ärmelkanal" ("ö"), FOREIGN KEY (b) REFERENCES "ÄRMELKANAL" (x));
CREATE VIEW "Über" AS SELECT "ö" FROM "Ärmelkanal";
CREATE VIEW "über" AS SELECT b FROM "ärmelkanal";
CREATE TABLE void (a CONSTRAINT named, b CONSTRAINT x CONSTRAINT y NOT NULL, c, CONSTRAINT last);
CREATE TABLE several (a, CONSTRAINT one CONSTRAINT two UNIQUE (a), CONSTRAINT three, CHECK (a > 1) CONSTRAINT four);
CREATE TABLE always (a generated always, b int generated always, c AS (1), d int generated always as (a || 'x') stored, "generated" "always");
CREATE TABLE blobs (a DEFAULT x'00ff', b DEFAULT X'', c blob DEFAULT (x'0a' || 'b'), d CHECK (d <> x'ff'));
CREATE TABLE signs (a DEFAULT - 5, b DEFAULT + 1.5e3, c DEFAULT -0x1F, d DEFAULT true, e DEFAULT current_timestamp, f DEFAULT "text", g DEFAULT 'it''s', h DEFAULT [x]);
CREATE TABLE typed (a 'text', b "long name" (10, -2), c numeric(+3), d int unsigned big);
CREATE TABLE 'string' ('a' TEXT, [b c] TEXT, `d` INT, UNIQUE ('a', "d") ON CONFLICT REPLACE);
CREATE TABLE refs (a REFERENCES void NOT DEFERRABLE INITIALLY DEFERRED, b REFERENCES void ON DELETE CASCADE ON DELETE SET NULL MATCH x);
CREATE TABLE hushed (a /* , b */ text -- , c
, d NOT NULL);
CREATE INDEX "Ä" ON "Ärmelkanal" ("ö" COLLATE nocase, "Ö");
CREATE INDEX "ä" ON "ärmelkanal" (b) WHERE b > x'01';
