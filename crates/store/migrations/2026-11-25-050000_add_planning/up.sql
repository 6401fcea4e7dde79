-- Plans that are chosen, bounded, improved and edited; limits of printers; loads of parts.

-- What a plan was asked for (printers, units, resins, cut-off, spares), what no plan for it can be
-- under, what the first one took, and the plan it began from.
ALTER TABLE plans ADD COLUMN scope TEXT NOT NULL DEFAULT '{}';
ALTER TABLE plans ADD COLUMN effort TEXT NOT NULL DEFAULT 'anew' CHECK (effort IN ('anew', 'repair', 'further'));
ALTER TABLE plans ADD COLUMN from_plan_id INTEGER REFERENCES plans (id);
ALTER TABLE plans ADD COLUMN bound_seconds REAL NOT NULL DEFAULT 0;
ALTER TABLE plans ADD COLUMN bound_plates INTEGER NOT NULL DEFAULT 0;
ALTER TABLE plans ADD COLUMN first_seconds REAL;
ALTER TABLE plans ADD COLUMN better_found INTEGER NOT NULL DEFAULT 0;
-- How many of its edits hold: undo goes back, redo forward.
ALTER TABLE plans ADD COLUMN edits_held INTEGER NOT NULL DEFAULT 0;

-- What the maker changed on a draft's plates, each with the plate before and after.
CREATE TABLE plan_edits (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    plan_id INTEGER NOT NULL REFERENCES plans (id),
    seq INTEGER NOT NULL,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    words TEXT NOT NULL,
    before TEXT NOT NULL,
    after TEXT NOT NULL,
    made_at_ms INTEGER NOT NULL,
    UNIQUE (plan_id, seq)
) STRICT;

-- A copy that stays where it stands, whatever is arranged around it.
ALTER TABLE placements ADD COLUMN pinned INTEGER NOT NULL DEFAULT 0 CHECK (pinned IN (0, 1));

-- Way that has to stay free above the parts to take them off; hardest pulls, 0 for no limit.
ALTER TABLE printers ADD COLUMN removal_mm REAL NOT NULL DEFAULT 0;
ALTER TABLE printers ADD COLUMN part_pull REAL NOT NULL DEFAULT 0;
ALTER TABLE printers ADD COLUMN plate_pull REAL NOT NULL DEFAULT 0;
UPDATE printers SET assumed = CASE assumed WHEN '' THEN 'removal_mm' ELSE assumed || ',removal_mm' END;

-- Pull and section area in each millimetre above the plate.
ALTER TABLE hung_facts ADD COLUMN loads TEXT NOT NULL DEFAULT '[[],[]]';

-- Further reasons why copies are left over.
CREATE TABLE plan_demand_new (
    plan_id INTEGER NOT NULL REFERENCES plans (id),
    part_id INTEGER NOT NULL REFERENCES parts (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    wanted INTEGER NOT NULL,
    left_over INTEGER NOT NULL DEFAULT 0,
    left_over_why TEXT CHECK (left_over_why IN ('too tall', 'too wide', 'no printer', 'pulls too hard', 'untried', 'too late')),
    PRIMARY KEY (plan_id, part_id)
) STRICT, WITHOUT ROWID;
INSERT INTO plan_demand_new
    SELECT plan_id, part_id, sculpt_id, recipe_version_id, wanted, left_over, left_over_why FROM plan_demand;
DROP TABLE plan_demand;
ALTER TABLE plan_demand_new RENAME TO plan_demand;
