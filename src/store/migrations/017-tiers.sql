-- Tier policies, who is under them, and when pools are placed by heat.
CREATE TABLE tier_policy (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  shares TEXT NOT NULL,
  start_on TEXT,
  notes TEXT NOT NULL,
  UNIQUE (array, name)
) STRICT;

CREATE TABLE tier_use (
  id TEXT PRIMARY KEY,
  tier_policy TEXT NOT NULL REFERENCES tier_policy DEFERRABLE INITIALLY DEFERRED,
  volume TEXT NOT NULL UNIQUE REFERENCES volume DEFERRABLE INITIALLY DEFERRED
) STRICT;
CREATE INDEX tier_use_tier_policy ON tier_use (tier_policy);

ALTER TABLE pool ADD COLUMN heat_from INTEGER;
ALTER TABLE pool ADD COLUMN heat_until INTEGER;
ALTER TABLE pool ADD COLUMN heat_rate REAL;
