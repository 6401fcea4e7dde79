-- Counts how often a task was taken up: what was taken up before has no say in it any more.
ALTER TABLE tasks ADD COLUMN claim INTEGER NOT NULL DEFAULT 0;
