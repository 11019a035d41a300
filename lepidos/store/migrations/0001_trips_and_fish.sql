-- Trips, the fish of a trip, and everything measured on them.
-- Times are UTC in ISO 8601; masses kg; lengths m. Keys are ULIDs made where the record is made.

CREATE TABLE trip (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('boat', 'shore')),
  harbour TEXT NOT NULL,
  on_date TEXT NOT NULL,
  timezone TEXT NOT NULL,
  started_at TEXT NOT NULL
) STRICT;
CREATE INDEX trip_by_date ON trip (on_date DESC, id DESC);

CREATE TABLE person (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip (id),
  name TEXT NOT NULL,
  UNIQUE (trip_id, name)
) STRICT;

CREATE TABLE party (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip (id),
  name TEXT NOT NULL,
  UNIQUE (trip_id, name)
) STRICT;

CREATE TABLE fish (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip (id),
  code TEXT NOT NULL,
  species TEXT NOT NULL,
  party_id TEXT REFERENCES party (id),
  caught_by TEXT REFERENCES person (id),
  skin TEXT NOT NULL DEFAULT 'on' CHECK (skin IN ('on', 'off')),
  landed_at TEXT NOT NULL,
  UNIQUE (trip_id, code)
) STRICT;

-- Rows below this line are added and never changed.

CREATE TABLE measurement (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  quantity TEXT NOT NULL CHECK (quantity IN ('length', 'whole', 'gutted')),
  value REAL NOT NULL CHECK (value > 0),
  length_type TEXT NOT NULL DEFAULT '',
  method TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX measurement_of_fish ON measurement (fish_id, id);

CREATE TABLE fact (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  name TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX fact_of_fish ON fact (fish_id, id);

CREATE TABLE weighing (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish (id),
  piece TEXT NOT NULL,
  side TEXT NOT NULL CHECK (side IN ('', 'A', 'B')),
  kg REAL NOT NULL CHECK (kg > 0),
  method TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX weighing_of_fish ON weighing (fish_id, id);

-- An undo is a fact of its own; what it takes back stays in the file.
CREATE TABLE undo (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  target_id TEXT NOT NULL UNIQUE,
  at TEXT NOT NULL
) STRICT;

-- One row a use case that changed something. The key makes a retried request harmless.
CREATE TABLE entry (
  key TEXT PRIMARY KEY,
  action TEXT NOT NULL,
  digest TEXT NOT NULL,
  subject_kind TEXT NOT NULL,
  subject_id TEXT NOT NULL,
  sentence TEXT NOT NULL,
  question TEXT NOT NULL DEFAULT '',
  undoes TEXT NOT NULL DEFAULT '',
  at TEXT NOT NULL
) STRICT;

-- What is true of a fish now. Derived from the rows above, written in the same transaction.
CREATE TABLE fish_now (
  fish_id TEXT PRIMARY KEY REFERENCES fish (id),
  trip_id TEXT NOT NULL REFERENCES trip (id),
  species TEXT NOT NULL,
  stage TEXT NOT NULL CHECK (stage IN ('slab', 'table', 'done', 'withdrawn')),
  facts TEXT NOT NULL,
  length_m REAL NOT NULL,
  length_type TEXT NOT NULL,
  whole_kg REAL,
  gutted_kg REAL,
  weighed_kg REAL NOT NULL,
  fillet_kg REAL NOT NULL
) STRICT;
CREATE INDEX fish_now_of_trip ON fish_now (trip_id, stage);
CREATE INDEX fish_now_done ON fish_now (stage, species, whole_kg, fillet_kg);
