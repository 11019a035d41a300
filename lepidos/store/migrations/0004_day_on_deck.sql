-- The day on deck: where fish lie and how cold they are, who cuts what next, and the rule cards.

ALTER TABLE trip ADD COLUMN home_at TEXT;
ALTER TABLE trip ADD COLUMN box_w_per_k REAL;
ALTER TABLE party ADD COLUMN leaves_at TEXT;
ALTER TABLE party ADD COLUMN together INTEGER NOT NULL DEFAULT 0 CHECK (together IN (0, 1));
ALTER TABLE fish ADD COLUMN hooked_at TEXT;

CREATE INDEX fact_by_name ON fact (name, fish_id);

-- Measured or seen: rows are added and never changed.

CREATE TABLE reading (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  celsius REAL NOT NULL CHECK (celsius BETWEEN -5 AND 45),
  method TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX reading_of_fish ON reading (fish_id, id);

CREATE TABLE look (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  mark TEXT NOT NULL,
  points INTEGER NOT NULL CHECK (points BETWEEN 0 AND 3),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX look_of_fish ON look (fish_id, id);

CREATE TABLE ice_note (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip (id),
  kg REAL NOT NULL CHECK (kg >= 0),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX ice_note_of_trip ON ice_note (trip_id, id);

-- Settings: ordinary rows.

CREATE TABLE board (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip (id),
  name TEXT NOT NULL,
  opens_at TEXT NOT NULL,
  break_from TEXT,
  break_to TEXT,
  closed INTEGER NOT NULL DEFAULT 0 CHECK (closed IN (0, 1))
) STRICT;
CREATE INDEX board_of_trip ON board (trip_id, id);

CREATE TABLE hold (
  fish_id TEXT PRIMARY KEY REFERENCES fish (id),
  board_id TEXT NOT NULL REFERENCES board (id),
  position INTEGER NOT NULL
) STRICT;

CREATE TABLE rule_card (
  id TEXT PRIMARY KEY,
  species TEXT NOT NULL,
  area TEXT NOT NULL,
  source TEXT NOT NULL,
  checked_on TEXT NOT NULL,
  season_from TEXT NOT NULL DEFAULT '',
  season_to TEXT NOT NULL DEFAULT '',
  length_type TEXT NOT NULL,
  min_cm REAL,
  max_cm REAL,
  per_person INTEGER,
  per_boat INTEGER,
  possession INTEGER,
  fillet_at_sea TEXT NOT NULL DEFAULT '',
  skin_patch INTEGER NOT NULL DEFAULT 0,
  keep_carcass INTEGER NOT NULL DEFAULT 0,
  note TEXT NOT NULL DEFAULT '',
  CHECK (min_cm IS NULL OR max_cm IS NULL OR min_cm <= max_cm)
) STRICT;
CREATE UNIQUE INDEX rule_card_once ON rule_card (species, area);
