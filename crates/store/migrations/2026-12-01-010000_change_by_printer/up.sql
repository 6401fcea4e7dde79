-- Bringing another resin into a vat costs minutes and millilitres, by printer; nothing where a second
-- vat stands ready.
ALTER TABLE printers ADD COLUMN change_minutes REAL NOT NULL DEFAULT 25 CHECK (change_minutes BETWEEN 0 AND 240);
ALTER TABLE printers ADD COLUMN change_ml REAL NOT NULL DEFAULT 15 CHECK (change_ml BETWEEN 0 AND 2000);
UPDATE printers SET change_minutes = (SELECT change_minutes FROM attendance WHERE id = 1),
    assumed = CASE assumed WHEN '' THEN 'change_minutes,change_ml' ELSE assumed || ',change_minutes,change_ml' END;
ALTER TABLE attendance DROP COLUMN change_minutes;
UPDATE attendance SET assumed = trim(replace(',' || assumed || ',', ',change_minutes,', ','), ',');
