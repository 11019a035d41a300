-- A fact has a kind and a name; so far the kind stood before the name ("step.gut_out", "table." and a board's id).
ALTER TABLE fact ADD COLUMN kind TEXT NOT NULL DEFAULT 'state';
UPDATE fact SET kind = 'step', name = substr(name, 6) WHERE name LIKE 'step.%';
UPDATE fact SET kind = 'board', name = substr(name, 7) WHERE name LIKE 'table.%';
UPDATE fact SET kind = 'answer', name = substr(name, 6) WHERE name LIKE 'kept.%';
UPDATE fact SET kind = 'work' WHERE name IN ('closed', 'paused', 'resumed');
DROP INDEX fact_by_name;
DROP INDEX fact_closed;
CREATE INDEX fact_by_kind ON fact (kind, name, fish_id);
CREATE INDEX fact_closed ON fact (id) WHERE kind = 'work' AND name = 'closed';

-- What is true of a fish now: its states, and beside them the steps that are ticked.
ALTER TABLE fish_now ADD COLUMN steps TEXT NOT NULL DEFAULT '';
UPDATE fish_now SET
  facts = coalesce((SELECT group_concat(name, ' ') FROM (
    SELECT DISTINCT name FROM fact WHERE fact.fish_id = fish_now.fish_id AND kind = 'state'
      AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = fact.id) ORDER BY name)), ''),
  steps = coalesce((SELECT group_concat(name, ' ') FROM (
    SELECT DISTINCT name FROM fact WHERE fact.fish_id = fish_now.fish_id AND kind = 'step'
      AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = fact.id) ORDER BY name)), '');
