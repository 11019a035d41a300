-- Bags, what is in them, freezer places, and where each bag has been.

CREATE TABLE bag (
  id TEXT PRIMARY KEY,
  code TEXT NOT NULL UNIQUE,
  trip_id TEXT NOT NULL REFERENCES trip (id),
  party_id TEXT REFERENCES party (id),
  species TEXT NOT NULL,
  piece TEXT NOT NULL,
  tail INTEGER NOT NULL CHECK (tail IN (0, 1)),
  skin TEXT NOT NULL CHECK (skin IN ('on', 'off')),
  servings INTEGER NOT NULL CHECK (servings > 0),
  kg REAL NOT NULL CHECK (kg > 0),
  measured INTEGER NOT NULL CHECK (measured IN (0, 1)),
  caught_on TEXT NOT NULL,
  packed_on TEXT NOT NULL,
  best_by TEXT NOT NULL,
  sealed_at TEXT NOT NULL
) STRICT;
CREATE INDEX bag_of_trip ON bag (trip_id, id);

-- What of which piece is in a bag. A piece with marks remembers the cut it was planned with.
CREATE TABLE portion (
  id TEXT PRIMARY KEY,
  bag_id TEXT NOT NULL REFERENCES bag (id),
  weighing_id TEXT NOT NULL REFERENCES weighing (id),
  position INTEGER NOT NULL,
  from_m REAL NOT NULL,
  to_m REAL NOT NULL,
  share REAL NOT NULL CHECK (share > 0 AND share <= 1.000001),
  kg REAL NOT NULL CHECK (kg > 0),
  serving_kg REAL NOT NULL,
  length_m REAL NOT NULL,
  tail_apart INTEGER NOT NULL CHECK (tail_apart IN (0, 1)),
  per_bag INTEGER NOT NULL
) STRICT;
CREATE INDEX portion_of_weighing ON portion (weighing_id, position);
CREATE INDEX portion_of_bag ON portion (bag_id);

CREATE TABLE place (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE
) STRICT;

CREATE TABLE move (
  id TEXT PRIMARY KEY,
  bag_id TEXT NOT NULL REFERENCES bag (id),
  action TEXT NOT NULL CHECK (action IN ('in', 'out')),
  place_id TEXT REFERENCES place (id),
  why TEXT NOT NULL DEFAULT '',
  at TEXT NOT NULL
) STRICT;
CREATE INDEX move_of_bag ON move (bag_id, id);

-- Where a bag is now. Derived from its moves, written in the same transaction.
CREATE TABLE bag_now (
  bag_id TEXT PRIMARY KEY REFERENCES bag (id),
  trip_id TEXT NOT NULL REFERENCES trip (id),
  state TEXT NOT NULL CHECK (state IN ('sealed', 'in', 'out', 'withdrawn')),
  place_id TEXT REFERENCES place (id),
  best_by TEXT NOT NULL
) STRICT;
CREATE INDEX bag_now_first_expiring ON bag_now (state, best_by, bag_id);
CREATE INDEX bag_now_of_place ON bag_now (state, place_id, best_by);
CREATE INDEX bag_now_of_trip ON bag_now (trip_id, state);
