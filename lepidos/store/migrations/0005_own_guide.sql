-- What a crew adds to the guide: species and body plans of its own, as TOML. Never overwritten by ours.

CREATE TABLE own_guide (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('species', 'plan')),
  key TEXT NOT NULL,
  toml TEXT NOT NULL,
  at TEXT NOT NULL,
  UNIQUE (kind, key)
) STRICT;
