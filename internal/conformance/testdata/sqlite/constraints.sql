-- Constraints that stand with a column, with another one, and with the table as a whole.
CREATE TABLE quay (id INTEGER PRIMARY KEY, depth_m REAL, length_m REAL);
CREATE TABLE berth_limit (
    id INTEGER PRIMARY KEY,
    depth_m REAL CHECK (depth_m > 0),
    draught_m REAL CHECK (draught_m < depth_m),
    length_m REAL CHECK (length_m > beam_m), -- names a column of its table that stands behind it
    beam_m REAL,
    quay_id INTEGER REFERENCES quay (id),
    other_id INTEGER CONSTRAINT other CHECK (other_id > 0) REFERENCES quay (id),
    pair_id INTEGER,
    note TEXT DEFAULT 'CHECK (beam_m)',
    "check" TEXT,
    rest TEXT,
    CHECK (rest <> '' OR pair_id IS NULL),
    FOREIGN KEY (pair_id) REFERENCES quay (id)
);
CREATE TABLE tariff_step (
    depth_m REAL, -- quay has a column of this name, too
    quay_depth REAL REFERENCES quay (depth_m),
    length_m REAL,
    pair REAL,
    "of" TEXT CHECK ("of" IN ('a,b', ')(')),
    FOREIGN KEY (pair) REFERENCES quay (length_m)
);
