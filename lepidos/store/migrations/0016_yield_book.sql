-- How often a row was corrected: of two devices' the one that was corrected more often holds.
ALTER TABLE trip ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE party ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE fish ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE board ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE rule_card ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;

-- What was weighed off a fish, by piece, as a JSON object [kg]; who cut it, and how long that took [s].
ALTER TABLE fish_now ADD COLUMN parts TEXT NOT NULL DEFAULT '{}';
ALTER TABLE fish_now ADD COLUMN board_id TEXT;
ALTER TABLE fish_now ADD COLUMN seconds REAL;
UPDATE fish_now SET parts = coalesce((
  SELECT json_group_object(piece, kg) FROM (
    SELECT piece, sum(kg) AS kg FROM weighing INDEXED BY weighing_of_fish WHERE weighing.fish_id = fish_now.fish_id
      AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = weighing.id) GROUP BY piece ORDER BY piece)), '{}')
  WHERE weighed_kg > 0;
UPDATE fish_now SET board_id = (
  SELECT name FROM fact INDEXED BY fact_of_fish WHERE fact.fish_id = fish_now.fish_id AND kind = 'board'
    AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = fact.id) ORDER BY at DESC, id DESC LIMIT 1);
-- From the board to the last cut, less its pauses; one that was never ended goes on to the last cut.
UPDATE fish_now SET seconds = (
  SELECT 86400.0 * (julianday(closed.at) - julianday(board.at) - coalesce((
    SELECT sum(CASE name WHEN 'resumed' THEN julianday(at) ELSE -julianday(at) END)
        + CASE WHEN sum(name = 'paused') > sum(name = 'resumed') THEN julianday(closed.at) ELSE 0 END
      FROM fact INDEXED BY fact_of_fish WHERE fact.fish_id = fish_now.fish_id AND kind = 'work' AND name <> 'closed' AND at >= board.at
        AND at <= closed.at AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = fact.id)), 0))
  FROM fact AS closed INDEXED BY fact_of_fish, fact AS board INDEXED BY fact_of_fish
  WHERE closed.fish_id = fish_now.fish_id AND closed.kind = 'work' AND closed.name = 'closed'
    AND board.fish_id = fish_now.fish_id AND board.kind = 'board'
    AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id IN (closed.id, board.id))
  ORDER BY board.at DESC, closed.at DESC LIMIT 1)
  WHERE stage = 'done';
CREATE INDEX fish_now_given ON fish_now (trip_id) WHERE stage = 'done';

-- A trial of two ways, one on each side of a fish. Which side gets which, and which is cut first, is
-- drawn for each fish when it comes to a board.
CREATE TABLE trial (
  id TEXT PRIMARY KEY,
  species TEXT NOT NULL,
  way_x TEXT NOT NULL,
  way_y TEXT NOT NULL,
  fish INTEGER NOT NULL CHECK (fish BETWEEN 6 AND 200),
  at TEXT NOT NULL
) STRICT;
CREATE TABLE trial_fish (
  id TEXT PRIMARY KEY,
  trial_id TEXT NOT NULL REFERENCES trial(id),
  fish_id TEXT NOT NULL REFERENCES fish(id),
  number INTEGER NOT NULL,
  x_side TEXT NOT NULL CHECK (x_side IN ('A', 'B')),
  first_side TEXT NOT NULL CHECK (first_side IN ('A', 'B')),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX trial_fish_of_trial ON trial_fish(trial_id);
CREATE INDEX trial_fish_of_fish ON trial_fish(fish_id);

-- A blade was sharpened, or another one taken up, by whom.
CREATE TABLE sharpening (
  id TEXT PRIMARY KEY,
  cutter TEXT NOT NULL,
  blade TEXT NOT NULL DEFAULT '',
  at TEXT NOT NULL
) STRICT;
CREATE INDEX sharpening_by_cutter ON sharpening(cutter, at);

-- Meat that was scraped off a frame, by the zone where it was left.
CREATE TABLE scraping (
  id TEXT PRIMARY KEY,
  fish_id TEXT NOT NULL REFERENCES fish(id),
  side TEXT NOT NULL CHECK (side IN ('', 'A', 'B')),
  zone TEXT NOT NULL,
  kg REAL NOT NULL CHECK (kg >= 0),
  at TEXT NOT NULL
) STRICT;
CREATE INDEX scraping_of_fish ON scraping(fish_id);

-- Why a bag that is out was taken out: by its last move that stands.
ALTER TABLE bag_now ADD COLUMN why TEXT NOT NULL DEFAULT '';
UPDATE bag_now SET why = coalesce((
  SELECT why FROM move INDEXED BY move_of_bag WHERE move.bag_id = bag_now.bag_id AND action = 'out'
    AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = move.id) ORDER BY id DESC LIMIT 1), '')
  WHERE state = 'out';
