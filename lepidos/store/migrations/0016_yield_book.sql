-- How often a row was corrected: of two devices' the one that was corrected more often holds.
ALTER TABLE trip ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE party ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE fish ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE board ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
ALTER TABLE rule_card ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
