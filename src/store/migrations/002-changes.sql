-- What was prepared, run and undone, and what the lab's clock shows. Times ending in _lab are simulated milliseconds, _real the wall clock's.
CREATE TABLE lab (
  one INTEGER PRIMARY KEY CHECK (one = 1),
  now REAL NOT NULL,
  speed INTEGER NOT NULL CHECK (speed IN (0, 1, 60, 600))
) STRICT;

CREATE TABLE change (
  id TEXT PRIMARY KEY,
  title TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('draft', 'running', 'stopped', 'done', 'undoing', 'undone')),
  origin TEXT NOT NULL,
  created_real INTEGER NOT NULL,
  created_lab REAL NOT NULL,
  started_lab REAL,
  finished_lab REAL,
  problem TEXT CHECK (problem IS NULL OR json_valid(problem))
) STRICT;
CREATE INDEX change_created ON change (created_real);

CREATE TABLE change_operation (
  change TEXT NOT NULL REFERENCES change ON DELETE CASCADE,
  n INTEGER NOT NULL,
  document TEXT NOT NULL CHECK (json_valid(document)),
  PRIMARY KEY (change, n)
) STRICT, WITHOUT ROWID;

CREATE TABLE change_step (
  change TEXT NOT NULL REFERENCES change ON DELETE CASCADE,
  n INTEGER NOT NULL,
  operation INTEGER NOT NULL,
  unit INTEGER NOT NULL,
  title TEXT NOT NULL,
  device TEXT NOT NULL,
  takes REAL NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'undone')),
  started_lab REAL,
  finished_lab REAL,
  effects TEXT NOT NULL CHECK (json_valid(effects)),
  notes TEXT NOT NULL CHECK (json_valid(notes)),
  destroys TEXT,
  PRIMARY KEY (change, n)
) STRICT, WITHOUT ROWID;

CREATE TABLE log (
  id INTEGER PRIMARY KEY,
  change TEXT REFERENCES change ON DELETE CASCADE,
  step INTEGER,
  at_real INTEGER NOT NULL,
  at_lab REAL NOT NULL,
  level TEXT NOT NULL CHECK (level IN ('info', 'problem')),
  message TEXT NOT NULL
) STRICT;
CREATE INDEX log_change ON log (change);

CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;
