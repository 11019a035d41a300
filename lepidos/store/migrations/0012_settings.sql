-- What a crew chose for all its devices, one row a choice; the last word holds.
CREATE TABLE setting (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE,
  value TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;

-- Where a trip's fish come from, more closely than boat or shore, which stay beside it.
ALTER TABLE trip ADD COLUMN origin TEXT NOT NULL DEFAULT 'boat'
  CHECK (origin IN ('boat', 'kayak', 'pier', 'beach', 'shore', 'bought'));
UPDATE trip SET origin = kind;
