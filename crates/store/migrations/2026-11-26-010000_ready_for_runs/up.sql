-- Several runs of a plate with their outcome, plates that are lost, one mark for every copy of the
-- workshop, cost kept by its components, one word for a thing.

-- A copy's mark is its one number in the whole workshop; the number within its part goes.
CREATE TABLE copies_new (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    mark INTEGER NOT NULL UNIQUE,
    part_id INTEGER NOT NULL REFERENCES parts (id),
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    stage TEXT NOT NULL CHECK (stage IN ('planned', 'printing', 'in finishing', 'good', 'failed', 'surplus', 'released')),
    cause TEXT,
    note TEXT NOT NULL DEFAULT '',
    changed_at_ms INTEGER NOT NULL,
    CHECK ((stage = 'failed') = (cause IS NOT NULL))
) STRICT;
INSERT INTO copies_new
    SELECT id, uid, row_version, row_number() OVER (ORDER BY id), part_id, plate_id, sculpt_id,
        recipe_version_id, stage, cause, note, changed_at_ms
    FROM copies;
DROP TABLE copies;
ALTER TABLE copies_new RENAME TO copies;
CREATE INDEX copies_of_plate ON copies (plate_id);
CREATE INDEX copies_of_part ON copies (part_id, stage);

-- Plates that are lost; the rule by which their cost is shared.
CREATE TABLE plates_new (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    project_id INTEGER NOT NULL REFERENCES projects (id),
    plan_id INTEGER NOT NULL REFERENCES plans (id),
    number INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('draft', 'planned', 'running', 'printed', 'done', 'lost', 'released')),
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    layer_um INTEGER NOT NULL,
    setting_version_id INTEGER NOT NULL REFERENCES setting_versions (id),
    height_mm REAL NOT NULL,
    layers INTEGER NOT NULL,
    seconds REAL NOT NULL,
    resin_ml REAL NOT NULL,
    resin_g REAL NOT NULL,
    cost_rule INTEGER NOT NULL DEFAULT 1,
    resin_cost_minor INTEGER NOT NULL,
    hands_on_cost_minor INTEGER NOT NULL
) STRICT;
INSERT INTO plates_new
    SELECT id, uid, row_version, project_id, plan_id, number, state, printer_id, resin_id, layer_um,
        setting_version_id, height_mm, layers, seconds, resin_ml, resin_g, 1, resin_cost_minor,
        hands_on_cost_minor
    FROM plates;
DROP TABLE plates;
ALTER TABLE plates_new RENAME TO plates;
CREATE INDEX plates_of_plan ON plates (plan_id);
CREATE INDEX plates_of_project ON plates (project_id, state);

-- A plate may need several runs, one at a time.
CREATE TABLE runs_new (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    started_at_ms INTEGER NOT NULL,
    ended_at_ms INTEGER,
    outcome TEXT CHECK (outcome IN ('held', 'lost', 'stopped', 'put back')),
    stopped_at_layer INTEGER,
    room_c REAL,
    note TEXT NOT NULL DEFAULT '',
    CHECK ((ended_at_ms IS NULL) = (outcome IS NULL))
) STRICT;
INSERT INTO runs_new
    SELECT id, uid, row_version, plate_id, started_at_ms, ended_at_ms,
        CASE WHEN ended_at_ms IS NULL THEN NULL ELSE 'held' END, NULL, room_c, note
    FROM runs;
DROP TABLE runs;
ALTER TABLE runs_new RENAME TO runs;
CREATE INDEX runs_of_plate ON runs (plate_id);
CREATE UNIQUE INDEX runs_open ON runs (plate_id) WHERE ended_at_ms IS NULL;

-- What a copy costs, by component. Resin was shared by volume and the rest by area: what the resin
-- of a plate costs is shared anew by largest remainders, and the rest is hands.
ALTER TABLE placements ADD COLUMN resin_cost_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE placements ADD COLUMN hands_cost_minor INTEGER NOT NULL DEFAULT 0;
UPDATE placements SET resin_cost_minor = shared.minor
FROM (
    SELECT id, whole + (place <= missing) AS minor
    FROM (
        SELECT id, whole,
            row_number() OVER (PARTITION BY plate_id ORDER BY exact - whole DESC, seq) AS place,
            total - sum(whole) OVER (PARTITION BY plate_id) AS missing
        FROM (
            SELECT pm.id, pm.plate_id, pm.seq, pt.resin_cost_minor AS total,
                pt.resin_cost_minor * pm.resin_ml / sum(pm.resin_ml) OVER (PARTITION BY pm.plate_id) AS exact,
                CAST(pt.resin_cost_minor * pm.resin_ml / sum(pm.resin_ml) OVER (PARTITION BY pm.plate_id) AS INTEGER) AS whole
            FROM placements pm JOIN plates pt ON pt.id = pm.plate_id
            WHERE pm.resin_ml > 0
        )
    )
) AS shared
WHERE shared.id = placements.id;
UPDATE placements SET resin_cost_minor = min(resin_cost_minor, cost_minor);
UPDATE placements SET hands_cost_minor = cost_minor - resin_cost_minor;
ALTER TABLE placements DROP COLUMN cost_minor;

-- One word for a thing: what is measured of layers, parts as they are prepared, grades of variants.
ALTER TABLE prepared_facts RENAME TO layer_facts;
ALTER TABLE hung_facts RENAME TO prepared_parts;
ALTER TABLE prepared_parts RENAME COLUMN reach TO height_profile;
ALTER TABLE sculpt_facts RENAME COLUMN reach TO height_profile;
ALTER TABLE marks RENAME TO grades;
ALTER TABLE grades RENAME COLUMN mark TO grade;
