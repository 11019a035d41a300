-- The cutting session: what the scale showed, joint weighings, what was seen, where by-products go,
-- and what was foreseen of each fish before its first cut.

-- What the display showed when a piece was taken, and which load that was.
ALTER TABLE weighing ADD COLUMN pan_kg REAL;
ALTER TABLE weighing ADD COLUMN load_mark TEXT NOT NULL DEFAULT '';
-- Pieces that lay together share a name here; each has its part of the reading, with an interval.
ALTER TABLE weighing ADD COLUMN joint TEXT NOT NULL DEFAULT '';
ALTER TABLE weighing ADD COLUMN low_kg REAL;
ALTER TABLE weighing ADD COLUMN high_kg REAL;
CREATE INDEX weighing_by_load ON weighing (load_mark) WHERE load_mark <> '';

CREATE INDEX fact_closed ON fact (id) WHERE name = 'closed';

CREATE INDEX fish_at_table ON fish_now (fish_id) WHERE stage = 'table';

CREATE TABLE sight (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  what TEXT NOT NULL,
  number INTEGER NOT NULL CHECK (number BETWEEN 1 AND 999),
  place TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX sight_of_fish ON sight (fish_id, id);

CREATE TABLE fate (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  piece TEXT NOT NULL,
  fate TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX fate_of_fish ON fate (fish_id, id);

CREATE TABLE forecast (
  fish_id TEXT PRIMARY KEY REFERENCES fish (id),
  species TEXT NOT NULL,
  cutter TEXT NOT NULL,
  skin TEXT NOT NULL CHECK (skin IN ('on', 'off')),
  level REAL NOT NULL CHECK (level > 0 AND level < 1),
  kg REAL NOT NULL CHECK (kg > 0),
  low_kg REAL NOT NULL CHECK (low_kg > 0),
  high_kg REAL NOT NULL,
  learned_from INTEGER NOT NULL,
  at TEXT NOT NULL
) STRICT;
