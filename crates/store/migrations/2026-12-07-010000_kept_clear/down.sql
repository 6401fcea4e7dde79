ALTER TABLE printers DROP COLUMN kept_clear;
