-- Volumes that go to other pools while hosts work with them, and the plans by which many of them go.
CREATE TABLE wave_plan (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  from_hour INTEGER,
  until_hour INTEGER,
  days TEXT NOT NULL,
  slots INTEGER NOT NULL,
  held INTEGER NOT NULL,
  notes TEXT NOT NULL,
  created_at INTEGER NOT NULL
) STRICT;

CREATE TABLE move (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  volume TEXT NOT NULL REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  twin TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  from_pool TEXT NOT NULL REFERENCES pool DEFERRABLE INITIALLY DEFERRED,
  to_pool TEXT NOT NULL REFERENCES pool DEFERRABLE INITIALLY DEFERRED,
  link TEXT REFERENCES site_link DEFERRABLE INITIALLY DEFERRED,
  identity TEXT NOT NULL,
  wave_plan TEXT REFERENCES wave_plan DEFERRABLE INITIALLY DEFERRED,
  together TEXT NOT NULL,
  waits_for TEXT NOT NULL,
  weight REAL NOT NULL,
  cap REAL,
  pause_max INTEGER NOT NULL,
  mode TEXT NOT NULL,
  leaves INTEGER NOT NULL,
  state TEXT NOT NULL,
  held INTEGER NOT NULL,
  round TEXT,
  flows INTEGER NOT NULL,
  rounds TEXT NOT NULL,
  done INTEGER NOT NULL,
  stalls INTEGER NOT NULL,
  asks TEXT NOT NULL,
  pit REAL,
  every REAL NOT NULL,
  next_at REAL,
  pause REAL,
  turned INTEGER NOT NULL,
  prove_days INTEGER NOT NULL,
  planned_at REAL,
  started_at REAL,
  whole_at REAL,
  cut_at REAL,
  since REAL NOT NULL,
  reason TEXT NOT NULL,
  notes TEXT NOT NULL,
  log TEXT NOT NULL
) STRICT;
CREATE INDEX move_volume ON move (volume);
CREATE INDEX move_twin ON move (twin);
CREATE INDEX move_from_pool ON move (from_pool);
CREATE INDEX move_to_pool ON move (to_pool);
CREATE INDEX move_link ON move (link);
CREATE INDEX move_wave_plan ON move (wave_plan);
