-- The fill mark that a pool was last told to be past, so that it is told once a crossing.
ALTER TABLE pool ADD COLUMN mark TEXT NOT NULL DEFAULT 'none' CHECK (mark IN ('none', 'notice', 'warning', 'urgent'));
