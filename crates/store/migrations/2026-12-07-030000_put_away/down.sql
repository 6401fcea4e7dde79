ALTER TABLE projects DROP COLUMN put_away_at_ms;
