-- The latest time in the file is asked on every page: a clock that went back is told.
CREATE INDEX entry_by_time ON entry (at);
