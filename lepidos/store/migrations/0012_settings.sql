-- What a crew chose for all its devices, one row a choice; the last word holds.
CREATE TABLE setting (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  value TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
