-- Carving in depth: levels with legs, spares, drive life, pool policies, reduction, kept volumes, jobs of every kind, muted findings.
ALTER TABLE enclosure ADD COLUMN state TEXT NOT NULL DEFAULT 'up' CHECK (state IN ('up', 'down'));

ALTER TABLE drive RENAME TO drive_before;
CREATE TABLE drive (
  id TEXT PRIMARY KEY,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  enclosure TEXT NOT NULL REFERENCES enclosure DEFERRABLE INITIALLY DEFERRED,
  slot INTEGER NOT NULL,
  serial TEXT NOT NULL,
  media TEXT NOT NULL,
  capacity INTEGER NOT NULL CHECK (capacity > 0),
  sector INTEGER NOT NULL CHECK (sector IN (512, 4096)),
  state TEXT NOT NULL CHECK (state IN ('ok', 'predicted', 'failed', 'missing', 'rebuilding')),
  raid_group TEXT REFERENCES raid_group DEFERRABLE INITIALLY DEFERRED,
  spare TEXT NOT NULL DEFAULT 'no' CHECK (spare IN ('no', 'shared', 'dedicated')),
  spare_group TEXT REFERENCES raid_group DEFERRABLE INITIALLY DEFERRED,
  stands_in_for TEXT REFERENCES drive DEFERRABLE INITIALLY DEFERRED,
  wear REAL NOT NULL DEFAULT 0,
  media_errors INTEGER NOT NULL DEFAULT 0,
  recent_errors INTEGER NOT NULL DEFAULT 0,
  links INTEGER NOT NULL DEFAULT 2,
  "foreign" INTEGER NOT NULL DEFAULT 0,
  holds_data INTEGER NOT NULL DEFAULT 0,
  located INTEGER NOT NULL DEFAULT 0,
  rebuild_failed_at REAL,
  UNIQUE (enclosure, slot)
) STRICT;
INSERT INTO drive (id, array, enclosure, slot, serial, media, capacity, sector, state, raid_group)
  SELECT id, array, enclosure, slot, serial, media, capacity, sector, state, raid_group FROM drive_before;
DROP TABLE drive_before;
CREATE INDEX drive_raid_group ON drive (raid_group);
CREATE INDEX drive_spare_group ON drive (spare_group);
CREATE INDEX drive_stands_in_for ON drive (stands_in_for);

ALTER TABLE raid_group ADD COLUMN copies INTEGER NOT NULL DEFAULT 1;
ALTER TABLE raid_group ADD COLUMN legs INTEGER NOT NULL DEFAULT 1;
ALTER TABLE raid_group ADD COLUMN data INTEGER NOT NULL DEFAULT 1;
ALTER TABLE raid_group ADD COLUMN parity INTEGER NOT NULL DEFAULT 0;
ALTER TABLE raid_group ADD COLUMN spare_columns INTEGER NOT NULL DEFAULT 0;
ALTER TABLE raid_group ADD COLUMN seed INTEGER NOT NULL DEFAULT 0;
ALTER TABLE raid_group ADD COLUMN moved TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(moved));
ALTER TABLE raid_group ADD COLUMN priority TEXT NOT NULL DEFAULT 'normal';
ALTER TABLE raid_group ADD COLUMN draining INTEGER NOT NULL DEFAULT 0;
ALTER TABLE raid_group ADD COLUMN scrubbed_at REAL NOT NULL DEFAULT 0;
UPDATE raid_group SET
  copies = CASE level WHEN 'raid1' THEN json_array_length(drives) WHEN 'raid10' THEN 2 ELSE 1 END,
  legs = CASE level WHEN 'raid10' THEN json_array_length(drives) / 2 ELSE 1 END,
  parity = CASE level WHEN 'raid5' THEN 1 WHEN 'raid6' THEN 2 ELSE 0 END,
  data = CASE level WHEN 'raid0' THEN json_array_length(drives) WHEN 'raid5' THEN json_array_length(drives) - 1
    WHEN 'raid6' THEN json_array_length(drives) - 2 ELSE 1 END;

ALTER TABLE pool ADD COLUMN notice INTEGER NOT NULL DEFAULT 70;
ALTER TABLE pool ADD COLUMN urgent INTEGER NOT NULL DEFAULT 90;
ALTER TABLE pool ADD COLUMN subscription_limit INTEGER;
ALTER TABLE pool ADD COLUMN reserve REAL NOT NULL DEFAULT 1;
ALTER TABLE pool ADD COLUMN when_full TEXT NOT NULL DEFAULT 'fail-new-writes';
ALTER TABLE pool ADD COLUMN alert_to TEXT NOT NULL DEFAULT '';
ALTER TABLE pool ADD COLUMN compression INTEGER NOT NULL DEFAULT 0;
ALTER TABLE pool ADD COLUMN dedupe TEXT NOT NULL DEFAULT 'off';
ALTER TABLE pool ADD COLUMN encryption INTEGER NOT NULL DEFAULT 0;
ALTER TABLE pool ADD COLUMN planned_reduction REAL;
ALTER TABLE pool ADD COLUMN deduped_at REAL;

CREATE TABLE workload (id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE COLLATE NOCASE, notes TEXT NOT NULL) STRICT;

ALTER TABLE volume ADD COLUMN holes TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(holes));
ALTER TABLE volume ADD COLUMN reduced_to INTEGER NOT NULL DEFAULT 0;
ALTER TABLE volume ADD COLUMN block_size INTEGER NOT NULL DEFAULT 512;
ALTER TABLE volume ADD COLUMN reduction INTEGER NOT NULL DEFAULT 1;
ALTER TABLE volume ADD COLUMN workload TEXT REFERENCES workload DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE volume ADD COLUMN notes TEXT NOT NULL DEFAULT '';
ALTER TABLE volume ADD COLUMN tier TEXT;
ALTER TABLE volume ADD COLUMN content TEXT NOT NULL
  DEFAULT '{"family":null,"zero":0,"common":0,"span":0,"squeeze":"database","driftDays":0}' CHECK (json_valid(content));
ALTER TABLE volume ADD COLUMN created_at REAL NOT NULL DEFAULT 0;
ALTER TABLE volume ADD COLUMN written_at REAL;
ALTER TABLE volume ADD COLUMN deleted_at REAL;
ALTER TABLE volume ADD COLUMN keep_until REAL;
ALTER TABLE volume ADD COLUMN reclaim_days INTEGER NOT NULL DEFAULT 0;
ALTER TABLE volume ADD COLUMN reclaimed_at REAL;
CREATE INDEX volume_workload ON volume (workload);

ALTER TABLE extent RENAME TO extent_before;
CREATE TABLE extent (
  id TEXT PRIMARY KEY,
  volume TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  store TEXT REFERENCES pool DEFERRABLE INITIALLY DEFERRED,
  raid_group TEXT NOT NULL REFERENCES raid_group DEFERRABLE INITIALLY DEFERRED,
  start INTEGER NOT NULL,
  count INTEGER NOT NULL CHECK (count > 0),
  at INTEGER NOT NULL,
  CHECK ((volume IS NULL) <> (store IS NULL))
) STRICT;
INSERT INTO extent (id, volume, raid_group, start, count, at) SELECT id, volume, raid_group, start, count, at FROM extent_before;
DROP TABLE extent_before;
CREATE INDEX extent_volume ON extent (volume);
CREATE INDEX extent_store ON extent (store);
CREATE INDEX extent_raid_group ON extent (raid_group);

ALTER TABLE host_device ADD COLUMN file_system_size INTEGER NOT NULL DEFAULT 0;
ALTER TABLE host_device ADD COLUMN free TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(free));
UPDATE host_device SET file_system_size = size WHERE file_system IS NOT NULL;

ALTER TABLE job RENAME TO job_before;
CREATE TABLE job (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  raid_group TEXT REFERENCES raid_group DEFERRABLE INITIALLY DEFERRED,
  pool TEXT REFERENCES pool DEFERRABLE INITIALLY DEFERRED,
  volume TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  drive TEXT REFERENCES drive DEFERRABLE INITIALLY DEFERRED,
  partners TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(partners)),
  priority TEXT NOT NULL DEFAULT 'normal',
  total INTEGER NOT NULL DEFAULT 0,
  done INTEGER NOT NULL DEFAULT 0,
  as_of REAL NOT NULL,
  rate REAL NOT NULL DEFAULT 0,
  started_at REAL NOT NULL,
  finishes_at REAL NOT NULL
) STRICT;
-- The bytes of jobs of before are not on record: a member's size stands for them, spread over their time.
INSERT INTO job (id, kind, array, raid_group, drive, total, as_of, rate, started_at, finishes_at)
  SELECT b.id, b.kind, b.array, b.raid_group, b.drive, g.member_size, b.started_at,
    CASE WHEN b.finishes_at > b.started_at THEN 1000.0 * g.member_size / (b.finishes_at - b.started_at) ELSE 0 END,
    b.started_at, b.finishes_at
  FROM job_before b JOIN raid_group g ON g.id = b.raid_group;
DROP TABLE job_before;
CREATE INDEX job_raid_group ON job (raid_group);
CREATE INDEX job_drive ON job (drive);

CREATE TABLE mute (
  id TEXT PRIMARY KEY,
  "check" TEXT NOT NULL,
  subject TEXT NOT NULL,
  reason TEXT NOT NULL,
  until REAL NOT NULL
) STRICT;

-- How full things were: the last figures of each hour for two weeks, of each day for ever.
CREATE TABLE usage_hour (
  subject TEXT NOT NULL,
  at REAL NOT NULL,
  size INTEGER NOT NULL,
  promised INTEGER NOT NULL,
  written INTEGER NOT NULL,
  used INTEGER NOT NULL,
  PRIMARY KEY (subject, at)
) STRICT, WITHOUT ROWID;
CREATE INDEX usage_hour_at ON usage_hour (at);
CREATE TABLE usage_day (
  subject TEXT NOT NULL,
  day INTEGER NOT NULL,
  size INTEGER NOT NULL,
  promised INTEGER NOT NULL,
  written INTEGER NOT NULL,
  used INTEGER NOT NULL,
  most INTEGER NOT NULL,
  PRIMARY KEY (subject, day)
) STRICT, WITHOUT ROWID;
-- Sums over all pools or volumes are read along the days, from the index alone.
CREATE INDEX usage_day_day ON usage_day (day, subject, size, promised, written, used, most);
