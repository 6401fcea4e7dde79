ALTER TABLE layer_facts DROP COLUMN raised;
