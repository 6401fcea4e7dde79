DROP TABLE weighings;
ALTER TABLE bottles DROP COLUMN empty_g;
ALTER TABLE moves DROP COLUMN cause;
