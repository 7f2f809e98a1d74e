-- What arrays know of each other where they copy to one another.
CREATE TABLE partner (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  peer TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  addresses TEXT NOT NULL CHECK (json_valid(addresses)),
  contact TEXT NOT NULL,
  shown_secret TEXT,
  expected_secret TEXT,
  secret_until REAL,
  ended INTEGER NOT NULL CHECK (ended IN (0, 1)),
  offered TEXT NOT NULL CHECK (json_valid(offered)),
  offered_bytes TEXT NOT NULL CHECK (json_valid(offered_bytes)),
  quota_bytes REAL,
  quota_volumes INTEGER,
  quota_until REAL,
  since REAL NOT NULL,
  UNIQUE (array, name),
  UNIQUE (array, peer),
  CHECK (array <> peer)
) STRICT;
CREATE INDEX partner_peer ON partner (peer);
