-- A pass of plans copies a thousand volumes at one moment under one name. With the name before the volume, what it adds to the key lies together,
-- not a page of the key a copy; the same when a plan lets an old pass go.
CREATE TABLE snapshot_in_order (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  volume TEXT NOT NULL REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  workload TEXT REFERENCES workload DEFERRABLE INITIALLY DEFERRED,
  cut TEXT NOT NULL,
  at REAL NOT NULL,
  plan TEXT REFERENCES plan DEFERRABLE INITIALLY DEFERRED,
  schedules TEXT NOT NULL CHECK (json_valid(schedules)),
  made_by TEXT NOT NULL,
  notes TEXT NOT NULL,
  label TEXT NOT NULL,
  reason TEXT,
  size INTEGER NOT NULL,
  written INTEGER NOT NULL,
  holes TEXT NOT NULL CHECK (json_valid(holes)),
  image TEXT CHECK (image IS NULL OR json_valid(image)),
  files TEXT NOT NULL CHECK (json_valid(files)),
  parent TEXT REFERENCES snapshot DEFERRABLE INITIALLY DEFERRED,
  stands TEXT NOT NULL CHECK (json_valid(stands)),
  kept INTEGER NOT NULL CHECK (kept IN (0, 1)),
  keep_until REAL,
  locked_until REAL,
  lock_mode TEXT NOT NULL,
  hold TEXT NOT NULL,
  verdict TEXT CHECK (verdict IS NULL OR json_valid(verdict)),
  UNIQUE (name, volume)
) STRICT;
INSERT INTO snapshot_in_order SELECT * FROM snapshot ORDER BY rowid;
DROP TABLE snapshot;
ALTER TABLE snapshot_in_order RENAME TO snapshot;
CREATE INDEX snapshot_parent ON snapshot (parent);

-- How far an array's clock is from the time that passed, and the host at which a plan's copies are proven by themselves.
ALTER TABLE array ADD COLUMN clock_off REAL NOT NULL DEFAULT 0;
ALTER TABLE plan ADD COLUMN prove_at TEXT REFERENCES host DEFERRABLE INITIALLY DEFERRED;
