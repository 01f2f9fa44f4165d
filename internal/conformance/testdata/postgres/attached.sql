-- Keys, foreign keys and indexes of partitions under names of their own.
CREATE TABLE vessel (id integer PRIMARY KEY);
CREATE TABLE sailing (id integer NOT NULL, day date NOT NULL, vessel integer, note text) PARTITION BY RANGE (day);
CREATE TABLE sailing_2024 (id integer NOT NULL, day date NOT NULL, vessel integer, note text, CONSTRAINT own_vessel FOREIGN KEY (vessel) REFERENCES vessel (id), CONSTRAINT own_key PRIMARY KEY (id, day), CONSTRAINT own_note UNIQUE (note));
ALTER TABLE sailing ADD CONSTRAINT sailing_vessel FOREIGN KEY (vessel) REFERENCES vessel (id);
ALTER TABLE sailing ATTACH PARTITION sailing_2024 FOR VALUES FROM ('2024-01-01') TO ('2025-01-01');
ALTER TABLE sailing ADD CONSTRAINT sailing_key PRIMARY KEY (id, day);
CREATE TABLE sailing_2025 PARTITION OF sailing FOR VALUES FROM ('2025-01-01') TO ('2026-01-01');
CREATE TABLE sailing_2026 PARTITION OF sailing (CONSTRAINT own_2026 UNIQUE (day, vessel)) FOR VALUES FROM ('2026-01-01') TO ('2027-01-01');
-- An index that not all partitions have.
CREATE INDEX sailing_note ON ONLY sailing (note);
CREATE INDEX sailing_2025_note ON sailing_2025 (note);
-- A key made of an index with further columns.
CREATE TABLE berth (no integer NOT NULL, quay text, depth_m numeric);
CREATE UNIQUE INDEX berth_no ON berth (no) INCLUDE (depth_m);
ALTER TABLE berth ADD CONSTRAINT berth_is UNIQUE USING INDEX berth_no;
CREATE UNIQUE INDEX berth_quay ON berth (quay, no) INCLUDE (depth_m);
ALTER TABLE berth ADD CONSTRAINT berth_quay_is UNIQUE USING INDEX berth_quay DEFERRABLE INITIALLY DEFERRED;
