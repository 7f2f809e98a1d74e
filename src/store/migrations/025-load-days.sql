-- Long spans are read by whole days.
CREATE INDEX load_day_at ON load_day (at);
