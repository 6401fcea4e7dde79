-- What a batch is really washed in: its cautions must not change with a practice that is chosen later.
-- Empty for batches of before: for them practice and resin still say.
ALTER TABLE batches ADD COLUMN wash_agent TEXT NOT NULL DEFAULT '';
