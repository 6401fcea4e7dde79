ALTER TABLE link_commands DROP COLUMN machine;
ALTER TABLE link_commands DROP COLUMN boot;
ALTER TABLE link_commands DROP COLUMN number;
ALTER TABLE machine_runs DROP COLUMN machine;
ALTER TABLE machine_runs DROP COLUMN boot;
ALTER TABLE machine_runs DROP COLUMN file;
ALTER TABLE machine_runs DROP COLUMN checksum;
