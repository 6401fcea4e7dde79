ALTER TABLE runs DROP COLUMN ahead_ms;
DROP TABLE machine_runs;
DROP TABLE link_commands;
DROP TABLE printer_links;
