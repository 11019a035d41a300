-- What was seen may be a spot: on which piece, where on the drawing, and what was cut out there.
ALTER TABLE sight ADD COLUMN piece TEXT NOT NULL DEFAULT '';
ALTER TABLE sight ADD COLUMN side TEXT NOT NULL DEFAULT '' CHECK (side IN ('', 'A', 'B'));
ALTER TABLE sight ADD COLUMN x REAL;
ALTER TABLE sight ADD COLUMN y REAL;
ALTER TABLE sight ADD COLUMN lost_kg REAL NOT NULL DEFAULT 0 CHECK (lost_kg >= 0);
ALTER TABLE sight ADD COLUMN lost_how TEXT NOT NULL DEFAULT ''
  CHECK (lost_how IN ('', 'estimated', 'weighed'));
CREATE INDEX sight_cut_out ON sight (fish_id) WHERE lost_kg > 0;
