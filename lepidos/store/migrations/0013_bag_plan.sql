-- The size of the bag that fish was sealed in [m]; 0 where nobody said.
ALTER TABLE bag ADD COLUMN width_m REAL NOT NULL DEFAULT 0;
ALTER TABLE bag ADD COLUMN length_m REAL NOT NULL DEFAULT 0;
ALTER TABLE bag ADD COLUMN from_roll INTEGER NOT NULL DEFAULT 0;

-- All marks of the piece that a portion was cut from, as a JSON list [m]; '' in bags of before.
ALTER TABLE portion ADD COLUMN cuts TEXT NOT NULL DEFAULT '';
-- How many of that piece's portions are thick ones; the rest is its tail.
ALTER TABLE portion ADD COLUMN thick INTEGER NOT NULL DEFAULT 0;

-- How fish go into bags on a trip: everybody's, or one party's. The last row of each holds.
CREATE TABLE bag_rule (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip(id),
  party_id TEXT REFERENCES party(id),
  serving_kg REAL NOT NULL CHECK (serving_kg > 0),
  per_bag INTEGER NOT NULL CHECK (per_bag BETWEEN 1 AND 12),
  tail_apart INTEGER NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX bag_rule_trip ON bag_rule(trip_id);

-- Where a piece is to be cut, when somebody said so for it alone. The last row of each holds.
CREATE TABLE piece_mark (
  id TEXT PRIMARY KEY,
  weighing_id TEXT NOT NULL REFERENCES weighing(id),
  serving_kg REAL NOT NULL CHECK (serving_kg > 0),
  per_bag INTEGER NOT NULL CHECK (per_bag BETWEEN 1 AND 12),
  tail_apart INTEGER NOT NULL,
  length_m REAL NOT NULL,
  cuts TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX piece_mark_weighing ON piece_mark(weighing_id);

-- What a hand decided for a portion of a piece that is not sealed yet: with what it lies together
-- ("" with whatever suits), and for whom (none: as the split says). The last row of each holds.
CREATE TABLE part_said (
  id TEXT PRIMARY KEY,
  weighing_id TEXT NOT NULL REFERENCES weighing(id),
  position INTEGER NOT NULL,
  pin TEXT NOT NULL,
  party_id TEXT REFERENCES party(id),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX part_said_weighing ON part_said(weighing_id);

-- What the box held when somebody looked: bags of a size, or metres of a roll (length 0).
CREATE TABLE supply_count (
  id TEXT PRIMARY KEY,
  width_m REAL NOT NULL CHECK (width_m > 0),
  length_m REAL NOT NULL CHECK (length_m >= 0),
  held REAL NOT NULL CHECK (held >= 0),
  at TEXT NOT NULL
) STRICT;

-- How a trip's bags are shared out; `shares` is a JSON object by party. The last row holds.
CREATE TABLE share_rule (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip(id),
  how TEXT NOT NULL,
  shares TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX share_rule_trip ON share_rule(trip_id);

-- What a trip cost, in the smallest coin of the crew's currency, and how parties share it.
CREATE TABLE cost (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip(id),
  name TEXT NOT NULL,
  coins INTEGER NOT NULL CHECK (coins >= 0),
  shared_by TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX cost_trip ON cost(trip_id);

-- A private address for one party's receipt; it is withdrawn by undoing it.
CREATE TABLE receipt_link (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip(id),
  party_id TEXT NOT NULL REFERENCES party(id),
  token TEXT NOT NULL UNIQUE,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX receipt_link_trip ON receipt_link(trip_id);

-- What a party, or one guest of it (by name; '' is the party), wishes of its bags: a note on its
-- labels, and what it does not take (keys of cautions and of fish, with spaces between). The last
-- row of each holds; a guest of whom nothing is said any more is none.
CREATE TABLE party_wish (
  id TEXT PRIMARY KEY,
  trip_id TEXT NOT NULL REFERENCES trip(id),
  party_id TEXT NOT NULL REFERENCES party(id),
  guest TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL,
  without TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX party_wish_trip ON party_wish(trip_id);

-- Labels that came out, one row each; and how many were on the roll when somebody looked.
CREATE TABLE label_print (
  id TEXT PRIMARY KEY,
  bag_id TEXT NOT NULL REFERENCES bag(id),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX label_print_bag ON label_print(bag_id);
CREATE TABLE label_count (
  id TEXT PRIMARY KEY,
  held INTEGER NOT NULL CHECK (held >= 0),
  at TEXT NOT NULL
) STRICT;
