-- A bag may be a part of a serving: each was counted as one at least, and four of 38 g as a dinner for four. What
-- weighed less than three quarters of the serving that was said for it (200 g where nobody said) is that part of one.
-- STRICT has no wider type for a column that is there: it is made anew.
ALTER TABLE bag ADD COLUMN counted REAL NOT NULL DEFAULT 1 CHECK (counted >= 0);
UPDATE bag SET counted = kg / coalesce(
  (SELECT serving_kg FROM bag_rule WHERE bag_rule.trip_id = bag.trip_id AND bag_rule.party_id IS bag.party_id
   AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = bag_rule.id) ORDER BY bag_rule.id DESC LIMIT 1),
  (SELECT serving_kg FROM bag_rule WHERE bag_rule.trip_id = bag.trip_id AND bag_rule.party_id IS NULL
   AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = bag_rule.id) ORDER BY bag_rule.id DESC LIMIT 1),
  0.2) WHERE servings = 1;
UPDATE bag SET counted = CASE WHEN servings = 1 AND counted < 0.75 THEN round(counted, 1) ELSE servings END;
ALTER TABLE bag DROP COLUMN servings;
ALTER TABLE bag RENAME COLUMN counted TO servings;
