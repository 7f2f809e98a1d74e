-- Changes that were approved run by themselves within a window: how, and where they stand.
ALTER TABLE change ADD COLUMN stage TEXT CHECK (stage IS NULL OR stage IN ('approved', 'paused', 'stuck'));
ALTER TABLE change ADD COLUMN run TEXT CHECK (run IS NULL OR json_valid(run));
CREATE INDEX change_stage ON change (stage) WHERE stage IS NOT NULL;

-- What would have been sent to somebody.
CREATE TABLE mail (
  id INTEGER PRIMARY KEY,
  at_lab REAL NOT NULL,
  recipient TEXT NOT NULL,
  subject TEXT NOT NULL,
  body TEXT NOT NULL,
  link TEXT NOT NULL
) STRICT;
