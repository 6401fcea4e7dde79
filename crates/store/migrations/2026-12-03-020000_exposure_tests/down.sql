DROP TABLE bench_changes;
DROP TABLE ladder_steps;
DROP TABLE exposure_tests;
