-- The Skerry Line's tide gauges and forecasts.
-- A line that ends with --@dev, --@stage or --@live belongs to those environments alone.

CREATE TABLE gauge (
    id INTEGER PRIMARY KEY,
    harbour_code TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    zero_m NUMERIC(5,2) NOT NULL DEFAULT 0,
    replaced_by INTEGER REFERENCES gauge (id)
);

CREATE TABLE tide_reading (
    gauge_id INTEGER NOT NULL REFERENCES gauge (id),
    read_at TIMESTAMP NOT NULL,
    height_m NUMERIC(5,2) NOT NULL CHECK (height_m BETWEEN -5 AND 15),
    quality TEXT NOT NULL DEFAULT 'raw' CHECK (quality IN ('raw', 'checked', 'doubtful')), --@dev,stage
    PRIMARY KEY (gauge_id, read_at)
) WITHOUT ROWID;

CREATE TABLE tide_forecast (
    gauge_id INTEGER NOT NULL REFERENCES gauge (id),
    turns_at TIMESTAMP NOT NULL,
    high BOOLEAN NOT NULL,
    height_m NUMERIC(5,2) NOT NULL,
    PRIMARY KEY (gauge_id, turns_at)
);

CREATE VIEW latest_reading AS
SELECT g.harbour_code, r.read_at, r.height_m - g.zero_m AS height_m
FROM gauge g JOIN tide_reading r ON r.gauge_id = g.id
WHERE r.read_at = (SELECT max(x.read_at) FROM tide_reading x WHERE x.gauge_id = g.id);

INSERT INTO gauge (harbour_code, name) VALUES ('OUT', 'Outer mole'), ('TRN', 'Ternholm pier'), ('KEL', 'Kelp sound');
INSERT INTO tide_reading (gauge_id, read_at, height_m)
    WITH RECURSIVE n (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 1999)
    SELECT 1 + i % 3, datetime('2026-11-01', '+' || (i * 10) || ' minutes'), round(2 + (i % 25) * 0.11, 2) FROM n;
ANALYZE;
