-- A limit may be put on all that a consumer took.
ALTER TABLE limit_use ADD COLUMN allotment TEXT REFERENCES allotment DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX limit_use_allotment ON limit_use (allotment);
