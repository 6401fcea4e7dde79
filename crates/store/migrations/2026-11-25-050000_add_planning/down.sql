CREATE TABLE plan_demand_old (
    plan_id INTEGER NOT NULL REFERENCES plans (id),
    part_id INTEGER NOT NULL REFERENCES parts (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    wanted INTEGER NOT NULL,
    left_over INTEGER NOT NULL DEFAULT 0,
    left_over_why TEXT CHECK (left_over_why IN ('too tall', 'too wide', 'no printer')),
    PRIMARY KEY (plan_id, part_id)
) STRICT, WITHOUT ROWID;
INSERT INTO plan_demand_old
    SELECT plan_id, part_id, sculpt_id, recipe_version_id, wanted, left_over,
        CASE WHEN left_over_why IN ('pulls too hard', 'untried', 'too late') THEN 'no printer' ELSE left_over_why END
    FROM plan_demand;
DROP TABLE plan_demand;
ALTER TABLE plan_demand_old RENAME TO plan_demand;
ALTER TABLE hung_facts DROP COLUMN loads;
ALTER TABLE printers DROP COLUMN plate_pull;
ALTER TABLE printers DROP COLUMN part_pull;
ALTER TABLE printers DROP COLUMN removal_mm;
ALTER TABLE placements DROP COLUMN pinned;
DROP TABLE plan_edits;
ALTER TABLE plans DROP COLUMN edits_held;
ALTER TABLE plans DROP COLUMN better_found;
ALTER TABLE plans DROP COLUMN first_seconds;
ALTER TABLE plans DROP COLUMN bound_plates;
ALTER TABLE plans DROP COLUMN bound_seconds;
ALTER TABLE plans DROP COLUMN from_plan_id;
ALTER TABLE plans DROP COLUMN effort;
ALTER TABLE plans DROP COLUMN scope;
