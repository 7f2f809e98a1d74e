-- The fill mark that a pool was last told to be past, so that it is told once a crossing.
ALTER TABLE pool ADD COLUMN mark TEXT NOT NULL DEFAULT 'none' CHECK (mark IN ('none', 'notice', 'warning', 'urgent'));
-- A file system that a host may only read stands so once a write was refused.
ALTER TABLE host_device ADD COLUMN read_only INTEGER NOT NULL DEFAULT 0 CHECK (read_only IN (0, 1));
