-- What replications carried from a mark on.
ALTER TABLE load_mark ADD COLUMN timed TEXT;
