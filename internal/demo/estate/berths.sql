-- The Skerry Line's harbour: quays, berths, moorings, vessels, pilots, sailings and what they cost.
-- A line that ends with --@dev, --@stage or --@live belongs to those environments alone.

CREATE TABLE harbour (
    code TEXT NOT NULL PRIMARY KEY CHECK (length(code) = 3),
    name TEXT NOT NULL UNIQUE,
    island TEXT NOT NULL,
    main_berth INTEGER REFERENCES berth (id),
    opened_on DATE
);

CREATE TABLE berth (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    harbour_code TEXT NOT NULL REFERENCES harbour (code) ON UPDATE CASCADE,
    berth_no INTEGER NOT NULL,
    length_m NUMERIC(5,1) NOT NULL CHECK (length_m BETWEEN 4 AND 400),
    depth_m NUMERIC(4,1) NOT NULL, --@live
    depth_m NUMERIC(5,2) NOT NULL, --@dev
    depth_m NUMERIC(4,1) NOT NULL, --@stage
    surface TEXT NOT NULL DEFAULT 'stone' CHECK (surface IN ('stone', 'timber', 'pontoon')),
    shore_power BOOLEAN NOT NULL DEFAULT 0,
    CONSTRAINT berth_number UNIQUE (harbour_code, berth_no)
);

CREATE TABLE vessel (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE,
    kind TEXT NOT NULL CHECK (kind IN ('ferry', 'freighter', 'tender', 'yacht')),
    length_m NUMERIC(5,1) NOT NULL,
    draught_m NUMERIC(3,1) NOT NULL CHECK (draught_m > 0),
    cars INTEGER NOT NULL DEFAULT 0,
    sister_of INTEGER REFERENCES vessel (id) ON DELETE SET NULL,
    call_sign TEXT UNIQUE
);

CREATE TABLE mooring (
    id INTEGER PRIMARY KEY,
    berth_id INTEGER NOT NULL REFERENCES berth (id) ON DELETE CASCADE,
    vessel_id INTEGER NOT NULL REFERENCES vessel (id),
    moored_from TIMESTAMP NOT NULL,
    moored_to TIMESTAMP,
    draught_m NUMERIC(3,1), --@live,stage
    draught_m NUMERIC(4,2), --@dev
    tide_margin_m NUMERIC(4,2) NOT NULL DEFAULT 0.5, --@dev,stage
    hours REAL GENERATED ALWAYS AS ((julianday(moored_to) - julianday(moored_from)) * 24) VIRTUAL,
    CHECK (moored_to IS NULL OR moored_to > moored_from)
);
CREATE INDEX mooring_by_berth ON mooring (berth_id, moored_from DESC);
CREATE INDEX mooring_open ON mooring (vessel_id) WHERE moored_to IS NULL;

CREATE TABLE pilot (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    licence TEXT NOT NULL UNIQUE,
    mentor_id INTEGER REFERENCES pilot (id),
    max_draught_m NUMERIC(3,1) NOT NULL DEFAULT 4.5
);

CREATE TABLE route (
    code TEXT NOT NULL PRIMARY KEY,
    from_harbour TEXT NOT NULL REFERENCES harbour (code),
    to_harbour TEXT NOT NULL REFERENCES harbour (code),
    distance_nm NUMERIC(5,1) NOT NULL CHECK (distance_nm > 0),
    CHECK (from_harbour <> to_harbour)
) WITHOUT ROWID;

CREATE TABLE sailing (
    route_code TEXT NOT NULL REFERENCES route (code),
    departs_at TIMESTAMP NOT NULL,
    vessel_id INTEGER NOT NULL REFERENCES vessel (id),
    pilot_id INTEGER REFERENCES pilot (id) ON DELETE SET NULL,
    status TEXT NOT NULL DEFAULT 'planned' CHECK (status IN ('planned', 'boarding', 'sailed', 'cancelled')),
    PRIMARY KEY (route_code, departs_at)
);
CREATE INDEX sailing_by_vessel ON sailing (vessel_id, departs_at);

CREATE TABLE crossing_stop (
    route_code TEXT NOT NULL,
    departs_at TIMESTAMP NOT NULL,
    stop_no INTEGER NOT NULL CHECK (stop_no BETWEEN 1 AND 20),
    berth_id INTEGER NOT NULL REFERENCES berth (id),
    arrives_at TIMESTAMP NOT NULL,
    PRIMARY KEY (route_code, departs_at, stop_no),
    FOREIGN KEY (route_code, departs_at) REFERENCES sailing (route_code, departs_at) ON DELETE CASCADE
);

CREATE TABLE tariff (
    code TEXT NOT NULL PRIMARY KEY,
    title TEXT NOT NULL,
    unit TEXT NOT NULL CHECK (unit IN ('day', 'metre', 'crossing')),
    price_cents INTEGER NOT NULL CHECK (price_cents >= 0),
    valid_from DATE NOT NULL DEFAULT '2026-01-01'
);

CREATE TABLE customer (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    email TEXT COLLATE NOCASE,
    vat_no TEXT --@live,stage
    vat_no TEXT CHECK (vat_no IS NULL OR length(vat_no) BETWEEN 8 AND 14) --@dev
);

CREATE TABLE invoice (
    id INTEGER PRIMARY KEY,
    customer_id INTEGER NOT NULL REFERENCES customer (id),
    issued_on DATE NOT NULL DEFAULT CURRENT_DATE,
    paid_on DATE,
    total_cents INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX invoice_by_customer ON invoice (customer_id);
CREATE INDEX invoice_unpaid ON invoice (issued_on) WHERE paid_on IS NULL; --@live

CREATE TABLE invoice_line (
    invoice_id INTEGER NOT NULL REFERENCES invoice (id) ON DELETE CASCADE,
    line_no INTEGER NOT NULL,
    tariff_code TEXT NOT NULL REFERENCES tariff (code),
    mooring_id INTEGER REFERENCES mooring (id),
    quantity NUMERIC(8,2) NOT NULL DEFAULT 1,
    amount_cents INTEGER NOT NULL,
    PRIMARY KEY (invoice_id, line_no)
);

CREATE TABLE "lost property" (
    id INTEGER PRIMARY KEY,
    vessel_id INTEGER REFERENCES vessel (id),
    "found where" TEXT NOT NULL,
    found_on DATE NOT NULL,
    handed_back BOOLEAN NOT NULL DEFAULT 0
);

CREATE TABLE pilot_roster ( --@dev
    pilot_id INTEGER NOT NULL REFERENCES pilot (id), --@dev
    shift_on DATE NOT NULL, --@dev
    shift TEXT NOT NULL CHECK (shift IN ('early', 'late', 'night')), --@dev
    PRIMARY KEY (pilot_id, shift_on) --@dev
); --@dev

CREATE TABLE berth_note_old (id INTEGER PRIMARY KEY, berth_id INTEGER, note TEXT); --@live

CREATE TABLE winter_closure (harbour_code TEXT NOT NULL REFERENCES harbour (code), closed_from DATE NOT NULL, closed_to DATE, PRIMARY KEY (harbour_code, closed_from)); --@live,stage
CREATE TABLE seasonal_closure (harbour_code TEXT NOT NULL REFERENCES harbour (code), closed_from DATE NOT NULL, closed_to DATE, PRIMARY KEY (harbour_code, closed_from)); --@dev

CREATE VIEW open_mooring AS
SELECT m.id, m.berth_id, b.harbour_code, b.berth_no, v.name AS vessel, m.moored_from, m.draught_m
FROM mooring m
    JOIN berth b ON b.id = m.berth_id
    JOIN vessel v ON v.id = m.vessel_id
WHERE m.moored_to IS NULL;

CREATE VIEW free_berth AS
-- a berth is free while nothing in open_mooring lies there
SELECT b.id, b.harbour_code, b.berth_no, b.length_m, b.depth_m
FROM berth b
WHERE b.id NOT IN (SELECT berth_id FROM open_mooring);

CREATE VIEW harbour_load AS
WITH taken AS (
    SELECT harbour_code, count(*) AS n FROM open_mooring GROUP BY harbour_code
)
SELECT h.code, h.name, coalesce(t.n, 0) AS taken, (SELECT count(*) FROM free_berth f WHERE f.harbour_code = h.code) AS free
FROM harbour h LEFT JOIN taken t ON t.harbour_code = h.code;

CREATE VIEW next_sailing AS
SELECT s.route_code, r.from_harbour, r.to_harbour, s.departs_at, v.name AS vessel, p.name AS pilot
FROM sailing s
    JOIN route r ON r.code = s.route_code
    JOIN vessel v ON v.id = s.vessel_id
    LEFT JOIN pilot p ON p.id = s.pilot_id
WHERE s.status IN ('planned', 'boarding') --@live,stage
WHERE s.status = 'planned' --@dev
ORDER BY s.departs_at;

CREATE VIEW unpaid_invoice AS
SELECT i.id, c.name AS customer, i.issued_on, i.total_cents
FROM invoice i JOIN customer c ON c.id = i.customer_id
WHERE i.paid_on IS NULL;

CREATE VIEW dunning_list AS
SELECT customer, count(*) AS invoices, sum(total_cents) AS owed_cents FROM unpaid_invoice GROUP BY customer;

CREATE TRIGGER invoice_total AFTER INSERT ON invoice_line
BEGIN
    UPDATE invoice
    SET total_cents = (SELECT sum(amount_cents) FROM invoice_line WHERE invoice_id = NEW.invoice_id)
    WHERE id = NEW.invoice_id;
END;

INSERT INTO harbour (code, name, island, opened_on) VALUES
    ('OUT', 'Outer Skerry', 'Outer Skerry', '1911-05-02'), ('TRN', 'Ternholm', 'Ternholm', '1924-06-30'), ('KEL', 'Kelpness', 'Great Kelp', '1953-04-11');
INSERT INTO berth (harbour_code, berth_no, length_m, depth_m, surface)
    WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 14)
    SELECT code, i, 12 + 4 * i, 3 + i * 0.4, CASE i % 3 WHEN 0 THEN 'timber' ELSE 'stone' END FROM harbour, n;
UPDATE harbour SET main_berth = (SELECT min(id) FROM berth WHERE harbour_code = code);
INSERT INTO vessel (name, kind, length_m, draught_m, cars, call_sign) VALUES
    ('Ternholm Maid', 'ferry', 62, 3.1, 40, 'SKA1'), ('Skerry Lass', 'ferry', 58, 2.9, 36, 'SKA2'), ('Kelp Carrier', 'freighter', 71, 4.2, 0, 'SKF1');
UPDATE vessel SET sister_of = 1 WHERE id = 2;
INSERT INTO pilot (name, licence) VALUES ('Marit Sund', 'P-041'), ('Ewan Brae', 'P-057');
INSERT INTO route VALUES ('OT', 'OUT', 'TRN', 11.5), ('TK', 'TRN', 'KEL', 18.2), ('KO', 'KEL', 'OUT', 24.0);
INSERT INTO sailing (route_code, departs_at, vessel_id, pilot_id)
    WITH RECURSIVE n (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 179)
    SELECT code, datetime('2026-11-01', '+' || (i * 4) || ' hours'), 1 + i % 2, 1 + i % 2 FROM route, n;
INSERT INTO mooring (berth_id, vessel_id, moored_from, moored_to)
    WITH RECURSIVE n (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 899)
    SELECT 1 + i % 42, 1 + i % 3, datetime('2026-06-01', '+' || (i * 5) || ' hours'), CASE WHEN i < 880 THEN datetime('2026-06-01', '+' || (i * 5 + 3) || ' hours') END FROM n;
INSERT INTO tariff (code, title, unit, price_cents) VALUES ('DAY', 'Berth by the day', 'day', 4200), ('CAR', 'Car, one crossing', 'crossing', 1850);
INSERT INTO customer (name, email) VALUES ('Brae Fish Cooperative', 'office@brae-fish.example'), ('Ternholm Yacht Club', NULL);
INSERT INTO invoice (customer_id, issued_on)
    WITH RECURSIVE n (i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 59) SELECT 1 + i % 2, date('2026-09-01', '+' || i || ' days') FROM n;
INSERT INTO invoice_line (invoice_id, line_no, tariff_code, quantity, amount_cents) SELECT id, 1, 'DAY', 2, 8400 FROM invoice;
INSERT INTO "lost property" (vessel_id, "found where", found_on) VALUES (1, 'car deck', '2026-10-03'), (2, 'saloon, under a bench', '2026-10-19');
ANALYZE;
