-- Loins and thirds were weighed before bloodline, skin, red edge and membrane came off them, and trim and skin
-- then once more: those weights stay readable, but nothing is learned from them.
ALTER TABLE weighing ADD COLUMN rough INTEGER NOT NULL DEFAULT 0 CHECK (rough IN (0, 1));
ALTER TABLE fish_now ADD COLUMN doubt TEXT NOT NULL DEFAULT '' CHECK (doubt IN ('', 'rough', 'eye'));
UPDATE weighing SET rough = 1 WHERE piece IN ('high_loin', 'low_loin', 'rib_end', 'middle_piece');
UPDATE weighing SET rough = 1 WHERE piece IN ('tail_piece', 'belly')
  AND fish_id IN (SELECT fish_id FROM weighing WHERE rough = 1);
UPDATE fish_now SET doubt = 'rough' WHERE fish_id IN (
  SELECT fish_id FROM weighing WHERE rough = 1
    AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = weighing.id));
