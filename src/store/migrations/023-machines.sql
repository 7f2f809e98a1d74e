-- Virtual machines of hypervisor clusters, and on which volume each of their disks lies.
CREATE TABLE machine (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  cluster TEXT NOT NULL REFERENCES cluster DEFERRABLE INITIALLY DEFERRED,
  workload TEXT REFERENCES workload DEFERRABLE INITIALLY DEFERRED,
  allotment TEXT REFERENCES allotment DEFERRABLE INITIALLY DEFERRED,
  running INTEGER NOT NULL,
  notes TEXT NOT NULL,
  created_at REAL NOT NULL
) STRICT;
CREATE INDEX machine_cluster ON machine (cluster);
CREATE INDEX machine_workload ON machine (workload);
CREATE INDEX machine_allotment ON machine (allotment);

CREATE TABLE machine_disk (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL COLLATE NOCASE,
  machine TEXT NOT NULL REFERENCES machine DEFERRABLE INITIALLY DEFERRED,
  volume TEXT NOT NULL REFERENCES volume DEFERRABLE INITIALLY DEFERRED,
  size INTEGER NOT NULL,
  share INTEGER NOT NULL,
  UNIQUE (machine, name)
) STRICT;
CREATE INDEX machine_disk_machine ON machine_disk (machine);
CREATE INDEX machine_disk_volume ON machine_disk (volume);
