-- Copies in time: plans, snapshots, what they keep apart, and what hosts rewrite.
CREATE TABLE plan (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  notes TEXT NOT NULL,
  zone TEXT NOT NULL,
  rpo REAL,
  pattern TEXT NOT NULL,
  schedules TEXT NOT NULL CHECK (json_valid(schedules)),
  gap TEXT NOT NULL,
  catch_up TEXT NOT NULL,
  grace REAL NOT NULL,
  prove_days INTEGER NOT NULL,
  paused INTEGER NOT NULL CHECK (paused IN (0, 1)),
  paused_since REAL,
  created_at REAL NOT NULL
) STRICT;

CREATE TABLE snapshot (
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
  UNIQUE (volume, name)
) STRICT;
CREATE INDEX snapshot_parent ON snapshot (parent);

CREATE TABLE plan_run (
  id TEXT PRIMARY KEY,
  plan TEXT NOT NULL REFERENCES plan DEFERRABLE INITIALLY DEFERRED,
  workload TEXT REFERENCES workload DEFERRABLE INITIALLY DEFERRED,
  volume TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  schedules TEXT NOT NULL CHECK (json_valid(schedules)),
  due_at REAL NOT NULL,
  at REAL NOT NULL,
  took REAL NOT NULL,
  result TEXT NOT NULL,
  label TEXT,
  reason TEXT,
  made INTEGER NOT NULL,
  deleted INTEGER NOT NULL,
  held_back INTEGER NOT NULL
) STRICT;

ALTER TABLE workload ADD COLUMN plan TEXT REFERENCES plan DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX workload_plan ON workload (plan);

ALTER TABLE volume ADD COLUMN activity TEXT CHECK (activity IS NULL OR json_valid(activity));
ALTER TABLE volume ADD COLUMN plan TEXT REFERENCES plan DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE volume ADD COLUMN gives_up INTEGER NOT NULL DEFAULT 0 CHECK (gives_up IN (0, 1));
ALTER TABLE volume ADD COLUMN files TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(files));
ALTER TABLE volume ADD COLUMN image TEXT CHECK (image IS NULL OR json_valid(image));
ALTER TABLE volume ADD COLUMN origin TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE volume ADD COLUMN view INTEGER NOT NULL DEFAULT 0 CHECK (view IN (0, 1));
CREATE INDEX volume_origin ON volume (origin);
ALTER TABLE volume ADD COLUMN base TEXT REFERENCES snapshot DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE volume ADD COLUMN stands TEXT NOT NULL DEFAULT '[1,1,1]' CHECK (json_valid(stands));
ALTER TABLE volume ADD COLUMN parts TEXT NOT NULL DEFAULT '[0,0]' CHECK (json_valid(parts));
ALTER TABLE volume ADD COLUMN copies_bytes REAL NOT NULL DEFAULT 0;
CREATE INDEX volume_plan ON volume (plan);
CREATE INDEX volume_base ON volume (base);

-- What programs on hosts do, and whether one there can pause them.
ALTER TABLE host ADD COLUMN application TEXT NOT NULL DEFAULT 'none';
ALTER TABLE host ADD COLUMN agent TEXT NOT NULL DEFAULT 'none';

ALTER TABLE extent RENAME TO extent_before;
CREATE TABLE extent (
  id TEXT PRIMARY KEY,
  volume TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  store TEXT REFERENCES pool DEFERRABLE INITIALLY DEFERRED,
  copies TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  raid_group TEXT NOT NULL REFERENCES raid_group DEFERRABLE INITIALLY DEFERRED,
  start INTEGER NOT NULL,
  count INTEGER NOT NULL CHECK (count > 0),
  at INTEGER NOT NULL,
  CHECK ((volume IS NOT NULL) + (store IS NOT NULL) + (copies IS NOT NULL) = 1)
) STRICT;
INSERT INTO extent (id, volume, store, raid_group, start, count, at) SELECT id, volume, store, raid_group, start, count, at FROM extent_before;
DROP TABLE extent_before;
CREATE INDEX extent_volume ON extent (volume);
CREATE INDEX extent_store ON extent (store);
CREATE INDEX extent_copies ON extent (copies);
CREATE INDEX extent_raid_group ON extent (raid_group);
