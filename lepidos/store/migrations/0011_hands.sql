-- Whose hands cut at a board: which one holds the knife, and whether they do it for the first time.
ALTER TABLE board ADD COLUMN hand TEXT NOT NULL DEFAULT '' CHECK (hand IN ('', 'left'));
ALTER TABLE board ADD COLUMN first_time INTEGER NOT NULL DEFAULT 0 CHECK (first_time IN (0, 1));
