DROP TABLE wears;
ALTER TABLE bench_changes DROP COLUMN what;
