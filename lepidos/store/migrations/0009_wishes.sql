-- What was said of how to cut: by the crew for a kind of fish and a size, by a party, of one fish.
-- Each row is the whole of what its speaker wants there; the last that stands is what holds.
CREATE TABLE wish (
  id TEXT PRIMARY KEY,
  trip_id TEXT REFERENCES trip (id),
  party_id TEXT REFERENCES party (id),
  fish_id TEXT REFERENCES fish (id),
  species TEXT NOT NULL,
  size TEXT NOT NULL CHECK (size IN ('', 'small', 'usual', 'large')),
  purpose TEXT NOT NULL,
  skin TEXT NOT NULL CHECK (skin IN ('', 'on', 'off')),
  methods TEXT NOT NULL CHECK (json_valid(methods)),
  tools TEXT NOT NULL,
  pieces TEXT NOT NULL CHECK (json_valid(pieces)),
  keeps TEXT NOT NULL,
  settled INTEGER NOT NULL DEFAULT 0 CHECK (settled IN (0, 1)),
  at TEXT NOT NULL,
  CHECK (NOT settled OR fish_id IS NOT NULL),
  CHECK (party_id IS NULL OR fish_id IS NULL),
  CHECK ((trip_id IS NULL) = (party_id IS NULL AND fish_id IS NULL))
) STRICT;
CREATE INDEX wish_of_trip ON wish (trip_id);
CREATE INDEX wish_of_fish ON wish (fish_id) WHERE settled = 1;
-- Fish that gave fillets before anyone could say how were cut in the usual way, and stay so.
INSERT INTO wish (id, trip_id, fish_id, species, size, purpose, skin, methods, tools, pieces, keeps, settled, at)
  SELECT 'Z' || substr(fish.id, 2), fish.trip_id, fish.id, fish.species, '', 'freezer', fish.skin, '{}', '', '{}', '', 1, fish.landed_at
  FROM fish JOIN fish_now ON fish_now.fish_id = fish.id
  WHERE fish_now.fillet_kg > 0 OR fish_now.stage = 'done';

-- What the pieces in a bag are for, as its label says it.
ALTER TABLE bag ADD COLUMN purpose TEXT NOT NULL DEFAULT '';
