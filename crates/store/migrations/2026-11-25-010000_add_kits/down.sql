DROP TABLE practices;
ALTER TABLE units DROP COLUMN carrier_id;
ALTER TABLE models DROP COLUMN carries;
ALTER TABLE parts DROP COLUMN option_id;
DROP TABLE pieces;
DROP TABLE options;
DROP TABLE choices;
