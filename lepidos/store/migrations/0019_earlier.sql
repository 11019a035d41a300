-- What a row was before it was written over, made or thrown away, so that this is seen and can be undone.
CREATE TABLE earlier (
  id TEXT PRIMARY KEY,
  act TEXT NOT NULL, -- all that was written over at once
  of_table TEXT NOT NULL,
  row_id TEXT NOT NULL,
  before TEXT, -- the row as JSON; NULL: there was none
  at TEXT NOT NULL
) STRICT;
CREATE INDEX earlier_by_act ON earlier (act);
CREATE INDEX earlier_by_row ON earlier (of_table, row_id);
-- the history of a fish or a bag asks for what made its rows
CREATE INDEX entry_by_subject ON entry (subject_id);
