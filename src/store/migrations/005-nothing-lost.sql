-- Steps know who carried them out, so that the same is asked when they are taken back; drafts know how often they were revised, and how.
ALTER TABLE change_step ADD COLUMN device_kind TEXT NOT NULL DEFAULT 'record' CHECK (device_kind IN ('array', 'host', 'fabric', 'record'));
ALTER TABLE change_step ADD COLUMN device_id TEXT NOT NULL DEFAULT '';
UPDATE change_step SET device_kind = 'array', device_id = (SELECT id FROM array WHERE name = device)
  WHERE device IN (SELECT name FROM array);
UPDATE change_step SET device_kind = 'host', device_id = (SELECT id FROM host WHERE name = device)
  WHERE device_id = '' AND device IN (SELECT name FROM host);
UPDATE change_step SET device_kind = 'fabric', device_id = (SELECT id FROM fabric WHERE 'fabric ' || name = device)
  WHERE device_id = '' AND device IN (SELECT 'fabric ' || name FROM fabric);

ALTER TABLE change ADD COLUMN revision INTEGER NOT NULL DEFAULT 1;
CREATE TABLE change_revision (
  change TEXT NOT NULL REFERENCES change ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  said TEXT NOT NULL,
  PRIMARY KEY (change, revision)
) STRICT, WITHOUT ROWID;
