-- What somebody asks a place for, kept under a name.
CREATE TABLE kept_request (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  bytes INTEGER NOT NULL,
  volumes INTEGER NOT NULL,
  iops REAL NOT NULL,
  keeping TEXT NOT NULL,
  service_class TEXT REFERENCES service_class DEFERRABLE INITIALLY DEFERRED,
  rules TEXT NOT NULL,
  replica INTEGER NOT NULL,
  notes TEXT NOT NULL
) STRICT;
CREATE INDEX kept_request_service_class ON kept_request (service_class);
