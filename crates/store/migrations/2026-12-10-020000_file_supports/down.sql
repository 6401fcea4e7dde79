ALTER TABLE sculpts DROP COLUMN supports;
