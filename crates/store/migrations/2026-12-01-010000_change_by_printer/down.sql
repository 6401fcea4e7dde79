ALTER TABLE attendance ADD COLUMN change_minutes REAL NOT NULL DEFAULT 25 CHECK (change_minutes BETWEEN 0 AND 240);
ALTER TABLE printers DROP COLUMN change_ml;
ALTER TABLE printers DROP COLUMN change_minutes;
UPDATE printers SET assumed = trim(replace(replace(',' || assumed || ',', ',change_minutes,', ','), ',change_ml,', ','), ',');
