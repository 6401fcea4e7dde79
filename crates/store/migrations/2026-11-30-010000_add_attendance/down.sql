ALTER TABLE plates DROP COLUMN told_ml;
ALTER TABLE plates DROP COLUMN told_seconds;
ALTER TABLE plates DROP COLUMN not_before_ms;
ALTER TABLE projects DROP COLUMN deadline_ms;
DROP TABLE attendance;
