-- Why a bag was thrown away, in a word; and the first of the moves that were made together, in one touch.
ALTER TABLE move ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE move ADD COLUMN together TEXT NOT NULL DEFAULT '';
CREATE INDEX move_together ON move(together) WHERE together != '';

-- A place may be a drawer of another; it has that one's log and cold.
ALTER TABLE place_said ADD COLUMN kind TEXT NOT NULL DEFAULT 'freezer';
ALTER TABLE place_said ADD COLUMN within_id TEXT REFERENCES place(id);
-- Kilograms it freezes a day, as its plate says; 0: nobody knows.
ALTER TABLE place_said ADD COLUMN kg_day REAL NOT NULL DEFAULT 0 CHECK (kg_day >= 0);

-- How a bag was closed, for how long it keeps.
ALTER TABLE bag ADD COLUMN pack TEXT NOT NULL DEFAULT 'vacuum';

-- Readings of a sensor in a place, as they were taken in together; their values lie in slices by day.
CREATE TABLE temperature_log (
  id TEXT PRIMARY KEY,
  place_id TEXT NOT NULL REFERENCES place(id),
  name TEXT NOT NULL,
  first_at TEXT NOT NULL,
  last_at TEXT NOT NULL,
  readings INTEGER NOT NULL CHECK (readings > 0),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX temperature_log_place ON temperature_log(place_id);

-- A day (UTC, days since 1970) of a log: seconds since 1970 as little-endian unsigned 32-bit numbers, and hundredths of
-- a degree Celsius as little-endian signed 16-bit numbers, as many of each.
CREATE TABLE temperature_slice (
  id TEXT PRIMARY KEY,
  log_id TEXT NOT NULL REFERENCES temperature_log(id),
  day INTEGER NOT NULL,
  at_s BLOB NOT NULL,
  centi_c BLOB NOT NULL
) STRICT;
CREATE INDEX temperature_slice_log ON temperature_slice(log_id, day);

-- A place counted through: codes that were seen, and what was missing or strange then, as JSON lists.
CREATE TABLE stocktake (
  id TEXT PRIMARY KEY,
  place_id TEXT NOT NULL REFERENCES place(id),
  seen INTEGER NOT NULL,
  missing TEXT NOT NULL,
  strange TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;
CREATE INDEX stocktake_place ON stocktake(place_id);

-- A meal from the freezer: codes of its bags as a JSON list, and when to take them out.
CREATE TABLE meal (
  id TEXT PRIMARY KEY,
  eaten_at TEXT NOT NULL,
  people INTEGER NOT NULL CHECK (people > 0),
  purpose TEXT NOT NULL,
  thaw TEXT NOT NULL,
  codes TEXT NOT NULL,
  out_at TEXT NOT NULL,
  at TEXT NOT NULL
) STRICT;

-- Days that warm spells in the logs took off a bag's life; its best-by date is that much sooner than its label's.
ALTER TABLE bag_now ADD COLUMN lost_days INTEGER NOT NULL DEFAULT 0;

-- The moment at which a log proved a raw hold; NULL: none did.
ALTER TABLE bag_now ADD COLUMN raw_from TEXT;
