ALTER TABLE setting_versions DROP COLUMN bottom_lift_mm_per_min;
ALTER TABLE setting_versions DROP COLUMN bottom_lift_mm;
ALTER TABLE setting_versions DROP COLUMN last_retract_mm_per_min;
ALTER TABLE setting_versions DROP COLUMN last_retract_mm;
ALTER TABLE setting_versions DROP COLUMN second_lift_mm_per_min;
ALTER TABLE setting_versions DROP COLUMN second_lift_mm;
ALTER TABLE setting_versions DROP COLUMN transition_layers;
ALTER TABLE setting_versions DROP COLUMN light_off_s;
