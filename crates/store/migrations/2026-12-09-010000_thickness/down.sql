ALTER TABLE layer_facts DROP COLUMN thickness;
ALTER TABLE layer_facts ADD COLUMN thinnest_mm REAL;
ALTER TABLE layer_facts ADD COLUMN thinnest_at_mm REAL NOT NULL DEFAULT 0;
