-- What a class asks of the copies of its volumes.
ALTER TABLE service_class ADD COLUMN copies TEXT NOT NULL DEFAULT 'none' CHECK (copies IN ('none', 'planned', 'locked'));
