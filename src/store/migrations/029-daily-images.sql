-- Images at the other site of which the first of each day is kept.
ALTER TABLE replication ADD COLUMN images_daily INTEGER NOT NULL DEFAULT 0 CHECK (images_daily BETWEEN 0 AND 400);
