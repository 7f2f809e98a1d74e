-- Volumes that show one identity at two sites, and the witness that decides between them; what replications keep back of pools.
CREATE TABLE witness (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  site TEXT NOT NULL REFERENCES site DEFERRABLE INITIALLY DEFERRED,
  state TEXT NOT NULL,
  notes TEXT NOT NULL
) STRICT;

ALTER TABLE replication ADD COLUMN stretch TEXT CHECK (stretch IS NULL OR json_valid(stretch));
ALTER TABLE replication ADD COLUMN witness TEXT REFERENCES witness DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX replication_witness ON replication (witness);
ALTER TABLE replication ADD COLUMN reserve_pools TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(reserve_pools));
ALTER TABLE replication ADD COLUMN reserves TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(reserves));
-- Inter-switch links that run over a line between sites.
ALTER TABLE site_link ADD COLUMN isls TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(isls));
