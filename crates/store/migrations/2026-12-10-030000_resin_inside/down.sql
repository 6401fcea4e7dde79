ALTER TABLE plates DROP COLUMN inside_ml;
