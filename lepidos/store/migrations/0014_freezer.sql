-- How thick the fish lies in a bag [m]; 0 where nobody said.
ALTER TABLE bag ADD COLUMN thick_m REAL NOT NULL DEFAULT 0;

-- What a freezer place is like: the temperature it holds, litres inside, how it takes the heat off.
-- The last row of each place holds.
CREATE TABLE place_said (
  id TEXT PRIMARY KEY,
  place_id TEXT NOT NULL REFERENCES place(id),
  celsius REAL NOT NULL,
  litres REAL NOT NULL CHECK (litres >= 0),
  cooling TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX place_said_place ON place_said(place_id);
