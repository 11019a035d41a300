-- A fish may be weighed without its head, and a dozen alike together: what each is of that weight. Those of a dozen
-- share the name of a fact. STRICT has no wider check for a column that is there: it is made anew.
ALTER TABLE measurement ADD COLUMN measured TEXT NOT NULL DEFAULT 'length'
  CHECK (measured IN ('length', 'whole', 'gutted', 'headed', 'shared'));
UPDATE measurement SET measured = quantity;
ALTER TABLE measurement DROP COLUMN quantity;
ALTER TABLE measurement RENAME COLUMN measured TO quantity;
ALTER TABLE fish_now ADD COLUMN headed_kg REAL;
ALTER TABLE fish_now ADD COLUMN shared_kg REAL;
ALTER TABLE fish_now ADD COLUMN length_about INTEGER NOT NULL DEFAULT 0 CHECK (length_about IN (0, 1));
