-- A layer in full: light waits after a move, bottom layers fade into the others, lift and way back may
-- have two stages, bottom layers their own lift. Nothing of it where it is 0, as before.
ALTER TABLE setting_versions ADD COLUMN light_off_s REAL NOT NULL DEFAULT 0;
ALTER TABLE setting_versions ADD COLUMN transition_layers INTEGER NOT NULL DEFAULT 0;
ALTER TABLE setting_versions ADD COLUMN second_lift_mm REAL NOT NULL DEFAULT 0;
ALTER TABLE setting_versions ADD COLUMN second_lift_mm_per_min REAL NOT NULL DEFAULT 180;
ALTER TABLE setting_versions ADD COLUMN last_retract_mm REAL NOT NULL DEFAULT 0;
ALTER TABLE setting_versions ADD COLUMN last_retract_mm_per_min REAL NOT NULL DEFAULT 60;
ALTER TABLE setting_versions ADD COLUMN bottom_lift_mm REAL NOT NULL DEFAULT 0;
ALTER TABLE setting_versions ADD COLUMN bottom_lift_mm_per_min REAL NOT NULL DEFAULT 60;
