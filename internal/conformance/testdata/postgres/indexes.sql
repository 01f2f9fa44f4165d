CREATE TABLE sailing (id int PRIMARY KEY, route text, departs timestamptz, arrives timestamptz, note text, pos point, "Odd Name" int);
CREATE INDEX by_route ON sailing (route, departs DESC NULLS LAST) INCLUDE (note);
CREATE INDEX nulls_first ON sailing (departs NULLS FIRST, arrives DESC);
CREATE UNIQUE INDEX one_open ON sailing (route) WHERE arrives IS NULL AND note <> ')';
CREATE INDEX lowered ON sailing (lower(route), (id + 1), route COLLATE "C" text_pattern_ops);
CREATE INDEX hashed ON sailing USING hash (route);
CREATE INDEX brin_departs ON sailing USING brin (departs) WITH (pages_per_range = 32);
CREATE INDEX place ON sailing USING gist (pos);
CREATE UNIQUE INDEX same_nulls ON sailing ("Odd Name") NULLS NOT DISTINCT; -- since 15
CREATE INDEX cast_one ON sailing ((id::text)) WITH (fillfactor = 80);
COMMENT ON INDEX place IS 'where they are';
