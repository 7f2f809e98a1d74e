-- Copies at another site: lines between sites, replications and their cycles.
CREATE TABLE site_link (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  sites TEXT NOT NULL CHECK (json_valid(sites)),
  bits_per_s REAL NOT NULL,
  rtt REAL NOT NULL,
  km REAL NOT NULL,
  loss REAL NOT NULL,
  day_cap REAL,
  night_cap REAL,
  state TEXT NOT NULL,
  slow INTEGER NOT NULL CHECK (slow IN (0, 1)),
  lossy INTEGER NOT NULL CHECK (lossy IN (0, 1)),
  notes TEXT NOT NULL
) STRICT;

CREATE TABLE replication (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  workload TEXT REFERENCES workload DEFERRABLE INITIALLY DEFERRED,
  primaries TEXT NOT NULL CHECK (json_valid(primaries)),
  secondaries TEXT NOT NULL CHECK (json_valid(secondaries)),
  link TEXT NOT NULL REFERENCES site_link DEFERRABLE INITIALLY DEFERRED,
  mode TEXT NOT NULL,
  on_loss TEXT NOT NULL,
  "order" TEXT NOT NULL,
  logs TEXT NOT NULL CHECK (json_valid(logs)),
  budget REAL,
  interval REAL NOT NULL,
  plan TEXT REFERENCES plan DEFERRABLE INITIALLY DEFERRED,
  rpo REAL,
  weight REAL NOT NULL,
  cap REAL,
  tier INTEGER NOT NULL,
  goal REAL,
  images INTEGER NOT NULL,
  first TEXT NOT NULL,
  wire_ratio REAL NOT NULL,
  state TEXT NOT NULL,
  source TEXT NOT NULL,
  link_state TEXT NOT NULL,
  site_p TEXT NOT NULL,
  site_s TEXT NOT NULL,
  image INTEGER NOT NULL CHECK (image IN (0, 1)),
  drill INTEGER NOT NULL CHECK (drill IN (0, 1)),
  access_p TEXT NOT NULL,
  access_s TEXT NOT NULL,
  pit REAL,
  carrying TEXT CHECK (carrying IS NULL OR json_valid(carrying)),
  next_at REAL NOT NULL,
  compare TEXT NOT NULL,
  started_at REAL NOT NULL,
  since REAL NOT NULL,
  reason TEXT NOT NULL,
  fence TEXT NOT NULL,
  CHECK (access_p <> 'yes' OR access_s <> 'yes')
) STRICT;
CREATE INDEX replication_workload ON replication (workload);
CREATE INDEX replication_plan ON replication (plan);

CREATE TABLE cycle (
  id TEXT PRIMARY KEY,
  replication TEXT NOT NULL REFERENCES replication DEFERRABLE INITIALLY DEFERRED,
  pit REAL NOT NULL,
  started_at REAL NOT NULL,
  finished_at REAL NOT NULL,
  changed REAL NOT NULL,
  wire REAL NOT NULL,
  lag_before REAL NOT NULL,
  lag_after REAL NOT NULL,
  result TEXT NOT NULL,
  reason TEXT
) STRICT;
CREATE INDEX cycle_replication ON cycle (replication);

-- Failovers that were rehearsed.
CREATE TABLE drill (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  host TEXT NOT NULL,
  site TEXT NOT NULL,
  started_at REAL NOT NULL,
  ended_at REAL,
  detect REAL NOT NULL,
  decide REAL NOT NULL,
  hands INTEGER NOT NULL,
  parts TEXT NOT NULL CHECK (json_valid(parts)),
  tiers TEXT NOT NULL CHECK (json_valid(tiers)),
  total REAL NOT NULL,
  clones TEXT NOT NULL CHECK (json_valid(clones)),
  copies TEXT NOT NULL CHECK (json_valid(copies))
) STRICT;
