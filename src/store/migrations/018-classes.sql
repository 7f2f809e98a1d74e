-- What pools can do by a person's word, and what requests ask for by one name.
CREATE TABLE service_class (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  rules TEXT NOT NULL,
  goal_ms REAL,
  notes TEXT NOT NULL
) STRICT;

CREATE TABLE class_use (
  id TEXT PRIMARY KEY,
  service_class TEXT NOT NULL REFERENCES service_class DEFERRABLE INITIALLY DEFERRED,
  volume TEXT NOT NULL UNIQUE REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  since INTEGER NOT NULL
) STRICT;
CREATE INDEX class_use_service_class ON class_use (service_class);

CREATE TABLE declared_fact (
  id TEXT PRIMARY KEY,
  pool TEXT REFERENCES pool DEFERRABLE INITIALLY DEFERRED,
  volume TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  key TEXT NOT NULL,
  value TEXT NOT NULL,
  reason TEXT NOT NULL,
  declared_at INTEGER NOT NULL
) STRICT;
CREATE INDEX declared_fact_pool ON declared_fact (pool);
CREATE INDEX declared_fact_volume ON declared_fact (volume);

CREATE TABLE fact_order (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  words TEXT NOT NULL
) STRICT;

-- What is set aside for consumers, and what they took.
CREATE TABLE allotment (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  contact TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  volumes INTEGER,
  pools TEXT NOT NULL,
  pool_bytes TEXT NOT NULL,
  classes TEXT NOT NULL,
  notes TEXT NOT NULL
) STRICT;

CREATE TABLE allotment_use (
  id TEXT PRIMARY KEY,
  allotment TEXT NOT NULL REFERENCES allotment DEFERRABLE INITIALLY DEFERRED,
  volume TEXT NOT NULL UNIQUE REFERENCES volume DEFERRABLE INITIALLY DEFERRED
) STRICT;
CREATE INDEX allotment_use_allotment ON allotment_use (allotment);
