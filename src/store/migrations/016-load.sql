-- Limits on what hosts ask, and what was asked, served and waited for.
CREATE TABLE load_limit (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  array TEXT NOT NULL REFERENCES array DEFERRABLE INITIALLY DEFERRED,
  iops REAL,
  bytes_per_s REAL,
  iops_per_gi_b REAL,
  least_iops REAL NOT NULL,
  most_iops REAL,
  burst INTEGER NOT NULL,
  floor REAL,
  weight REAL NOT NULL,
  shared INTEGER NOT NULL,
  from_hour INTEGER,
  until_hour INTEGER,
  notes TEXT NOT NULL,
  UNIQUE (array, name)
) STRICT;

CREATE TABLE limit_use (
  id TEXT PRIMARY KEY,
  load_limit TEXT NOT NULL REFERENCES load_limit DEFERRABLE INITIALLY DEFERRED,
  volume TEXT REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  workload TEXT REFERENCES workload DEFERRABLE INITIALLY DEFERRED,
  host TEXT REFERENCES host DEFERRABLE INITIALLY DEFERRED
) STRICT;
CREATE INDEX limit_use_load_limit ON limit_use (load_limit);
CREATE INDEX limit_use_volume ON limit_use (volume);
CREATE INDEX limit_use_workload ON limit_use (workload);
CREATE INDEX limit_use_host ON limit_use (host);

-- What the five-second rows are worked out from: the model of the load, as it was from a moment on.
CREATE TABLE load_model (
  id INTEGER PRIMARY KEY,
  at INTEGER NOT NULL,
  data BLOB NOT NULL
) STRICT;
-- Where the model stood at a moment: what waited, what was saved up. From there on every row can be worked out again.
CREATE TABLE load_mark (
  at INTEGER PRIMARY KEY,
  model INTEGER NOT NULL REFERENCES load_model,
  state TEXT NOT NULL
) STRICT;
-- An hour of a volume or a resource: sums, greatest five seconds, histogram, and its parts of five minutes.
CREATE TABLE load_hour (
  subject TEXT NOT NULL,
  at INTEGER NOT NULL,
  data BLOB NOT NULL,
  parts BLOB,
  PRIMARY KEY (at, subject)
) STRICT, WITHOUT ROWID;
CREATE INDEX load_hour_subject ON load_hour (subject, at);
CREATE TABLE load_day (
  subject TEXT NOT NULL,
  at INTEGER NOT NULL,
  data BLOB NOT NULL,
  PRIMARY KEY (subject, at)
) STRICT, WITHOUT ROWID;
