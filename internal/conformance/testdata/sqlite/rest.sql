CREATE TABLE sailing (route TEXT, departs TEXT, vessel INT, note TEXT);
CREATE INDEX by_route ON sailing (route COLLATE NOCASE, departs DESC);
CREATE UNIQUE INDEX "odd index" ON sailing (lower(note), vessel + 1) WHERE note IS NOT NULL;
CREATE VIEW a_view AS SELECT * FROM b_view;
CREATE VIEW b_view (r, n) AS SELECT route, count(*) FROM sailing GROUP BY route;
CREATE VIEW broken AS SELECT * FROM not_there;
CREATE TRIGGER stamp AFTER UPDATE OF note, vessel ON sailing FOR EACH ROW WHEN NEW.note IS NOT OLD.note
BEGIN
  UPDATE sailing SET departs = CASE WHEN departs IS NULL THEN 'now; end' ELSE departs END WHERE route = NEW.route;
  INSERT INTO sailing (route) SELECT r FROM b_view;
END;
CREATE TRIGGER into_view INSTEAD OF INSERT ON b_view BEGIN SELECT 1; END;
