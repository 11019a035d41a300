-- The guide's length-weight line of swordfish is by the length from the lower jaw, and called it the fork
-- length; what was landed by it keeps its meaning under the right name.
UPDATE measurement SET length_type = 'lower_jaw_fork'
WHERE quantity = 'length' AND length_type = 'fork'
  AND fish_id IN (SELECT id FROM fish WHERE species = 'swordfish');
UPDATE fish_now SET length_type = 'lower_jaw_fork'
WHERE length_type = 'fork' AND species = 'swordfish';
