-- Which path failover prefers, uses and goes back to; since when writing waits for a path.
ALTER TABLE host ADD COLUMN failback INTEGER NOT NULL DEFAULT 1 CHECK (failback IN (0, 1));
ALTER TABLE host_device ADD COLUMN weights TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(weights));
ALTER TABLE host_device ADD COLUMN current TEXT CHECK (current IS NULL OR json_valid(current));
ALTER TABLE host_device ADD COLUMN no_path_since REAL;
-- Discovery services that an array refers to.
ALTER TABLE array ADD COLUMN referrals TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(referrals));
