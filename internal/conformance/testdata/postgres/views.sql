CREATE TABLE mooring (id int PRIMARY KEY, berth int, draught numeric(3,1), moored daterange);
CREATE VIEW z_first AS SELECT id, berth FROM mooring WHERE draught > 2;
CREATE VIEW a_second AS SELECT b.id AS "Mooring No", count(*) AS n FROM z_first b JOIN mooring m USING (id) GROUP BY 1;
CREATE VIEW checked WITH (security_barrier = true) AS SELECT * FROM mooring WHERE berth > 0 WITH LOCAL CHECK OPTION;
CREATE VIEW cascaded AS SELECT * FROM mooring WHERE berth > 1 WITH CASCADED CHECK OPTION;
CREATE VIEW with_text AS SELECT 'it''s -- no comment' AS t, $$dollar$$::text AS d;
ALTER VIEW checked ALTER COLUMN berth SET DEFAULT 3;
COMMENT ON VIEW checked IS 'only real berths';
COMMENT ON COLUMN checked.draught IS 'metres';
-- Columns of the engine's own.
CREATE VIEW where_rows_lie AS SELECT m.tableoid::regclass AS lies_in, m.xmin::text AS written_by, m.ctid::text AS place FROM mooring m;
