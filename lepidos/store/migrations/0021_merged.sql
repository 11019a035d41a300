-- Whether another log was ever merged into this one is asked for every page.
CREATE INDEX entry_merged ON entry (action) WHERE action = 'bundle.import';
