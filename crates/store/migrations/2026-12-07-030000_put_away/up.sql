-- A project that is done with, or rests: in no list but its own, and all of it stays.
ALTER TABLE projects ADD COLUMN put_away_at_ms INTEGER;
