-- The room of one RAID group from which volumes are carved straight, without a pool.
ALTER TABLE pool ADD COLUMN direct INTEGER NOT NULL DEFAULT 0 CHECK (direct IN (0, 1));
