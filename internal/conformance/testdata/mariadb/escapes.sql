-- Backslashes in the literals of every text, under both meanings of a backslash.
CREATE TABLE note (id int PRIMARY KEY, text varchar(100) DEFAULT 'it\'s \\ here', CHECK (text <> 'a\\b'));
CREATE VIEW said AS SELECT 'it\'s \\ v' AS a, "double \" \\" AS b;
CREATE TRIGGER stamp BEFORE INSERT ON note FOR EACH ROW SET NEW.text = 'it\'s \\ a\nb \% \_';
CREATE TRIGGER second BEFORE INSERT ON note FOR EACH ROW FOLLOWS stamp SET NEW.text = concat("x\\\"", 'for each row do \\');
CREATE EVENT tidy ON SCHEDULE EVERY 1 DAY STARTS '2030-01-01' COMMENT 'do \\ it' DO INSERT INTO note VALUES (1, 'do it\'s \\ x');
CREATE PROCEDURE own_say() SELECT 'it\'s \\ p', "\"";
CREATE FUNCTION path() RETURNS varchar(50) DETERMINISTIC RETURN 'c:\\temp\\';
SET sql_mode = 'NO_BACKSLASH_ESCAPES';
CREATE TRIGGER plain AFTER INSERT ON note FOR EACH ROW SET @x = 'it''s \ plain\';
CREATE EVENT plain ON SCHEDULE EVERY 1 DAY STARTS '2030-01-01' DO SET @x = '\';
CREATE PROCEDURE own_plain() SELECT '\ p', '\';
SET sql_mode = 'ANSI_QUOTES';
CREATE TRIGGER named AFTER INSERT ON note FOR EACH ROW SET @x = (SELECT max("id") FROM "note" WHERE "text" = 'it\'s \\');
