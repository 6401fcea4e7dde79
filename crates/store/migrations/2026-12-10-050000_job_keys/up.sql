-- Which job of which machine an order and a run are about: a count alone is every machine's. What was begun before
-- names no machine, so it is told nothing any more, and taken off by hand.
ALTER TABLE link_commands ADD COLUMN machine TEXT NOT NULL DEFAULT '';
ALTER TABLE link_commands ADD COLUMN boot TEXT NOT NULL DEFAULT '';
ALTER TABLE link_commands ADD COLUMN number INTEGER NOT NULL DEFAULT 0;
ALTER TABLE machine_runs ADD COLUMN machine TEXT NOT NULL DEFAULT '';
ALTER TABLE machine_runs ADD COLUMN boot TEXT NOT NULL DEFAULT '';
ALTER TABLE machine_runs ADD COLUMN file TEXT NOT NULL DEFAULT '';
ALTER TABLE machine_runs ADD COLUMN checksum TEXT NOT NULL DEFAULT '';
