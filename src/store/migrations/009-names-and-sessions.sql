-- Control nodes of name servers, session identifiers of interfaces, and volumes that hosts start from.
ALTER TABLE name_server ADD COLUMN control_nodes TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(control_nodes));
ALTER TABLE interface ADD COLUMN isid TEXT;
ALTER TABLE volume ADD COLUMN boot INTEGER NOT NULL DEFAULT 0 CHECK (boot IN (0, 1));
-- I/O queues: what hosts ask of NVMe controllers, and what subsystems offer.
ALTER TABLE host ADD COLUMN io_queues INTEGER NOT NULL DEFAULT 8;
ALTER TABLE subsystem ADD COLUMN queue_limit INTEGER NOT NULL DEFAULT 64;
-- What controllers give to a rebuild; jobs that stand still and go on from their checkpoint.
ALTER TABLE array ADD COLUMN rebuild_budget INTEGER;
ALTER TABLE job ADD COLUMN paused INTEGER NOT NULL DEFAULT 0 CHECK (paused IN (0, 1));
ALTER TABLE host ADD COLUMN restarts INTEGER NOT NULL DEFAULT 0;
