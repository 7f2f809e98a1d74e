-- LUNs of outside arrays: what was found on the fabric, and what stands behind an array like a drive.
ALTER TABLE array ADD COLUMN outside INTEGER NOT NULL DEFAULT 0;
ALTER TABLE array ADD COLUMN silent_since REAL;
ALTER TABLE enclosure ADD COLUMN outside TEXT REFERENCES array DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE drive ADD COLUMN lun TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX enclosure_outside ON enclosure (outside);
CREATE INDEX drive_lun ON drive (lun);
ALTER TABLE raid_group ADD COLUMN declared INTEGER;
ALTER TABLE volume ADD COLUMN reserved_by TEXT REFERENCES host DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX volume_reserved_by ON volume (reserved_by);

CREATE TABLE outside_lun (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  volume TEXT NOT NULL REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  lun INTEGER NOT NULL,
  state TEXT NOT NULL,
  serial TEXT NOT NULL,
  size INTEGER NOT NULL,
  sector INTEGER NOT NULL,
  holds TEXT,
  written_at REAL,
  reserved_by TEXT,
  inspected_at REAL,
  found_at REAL NOT NULL,
  drive TEXT REFERENCES drive DEFERRABLE INITIALLY DEFERRED,
  front TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  formerly TEXT NOT NULL,
  log TEXT NOT NULL,
  UNIQUE (array, name)
) STRICT;
CREATE INDEX outside_lun_volume ON outside_lun (volume);
CREATE INDEX outside_lun_drive ON outside_lun (drive);
CREATE INDEX outside_lun_front ON outside_lun (front);
