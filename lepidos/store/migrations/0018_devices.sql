-- Devices that were let in, and which one made an entry ("": the machine itself, or before this).
CREATE TABLE device (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('crew', 'bench', 'guest')),
  party_id TEXT REFERENCES party (id),
  token TEXT NOT NULL UNIQUE, -- the SHA-256 of what the device holds
  at TEXT NOT NULL,
  until TEXT NOT NULL,
  withdrawn_at TEXT
) STRICT;
ALTER TABLE entry ADD COLUMN device TEXT NOT NULL DEFAULT '';
