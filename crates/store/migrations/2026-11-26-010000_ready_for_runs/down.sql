ALTER TABLE grades RENAME COLUMN grade TO mark;
ALTER TABLE grades RENAME TO marks;
ALTER TABLE sculpt_facts RENAME COLUMN height_profile TO reach;
ALTER TABLE prepared_parts RENAME COLUMN height_profile TO reach;
ALTER TABLE prepared_parts RENAME TO hung_facts;
ALTER TABLE layer_facts RENAME TO prepared_facts;

CREATE TABLE placements_old (
    id INTEGER NOT NULL PRIMARY KEY,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    seq INTEGER NOT NULL,
    part_id INTEGER NOT NULL REFERENCES parts (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    x_mm REAL NOT NULL,
    y_mm REAL NOT NULL,
    rotation_deg REAL NOT NULL,
    resin_ml REAL NOT NULL,
    cost_minor INTEGER NOT NULL,
    copy_id INTEGER UNIQUE REFERENCES copies (id),
    pinned INTEGER NOT NULL DEFAULT 0 CHECK (pinned IN (0, 1)),
    UNIQUE (plate_id, seq)
) STRICT;
INSERT INTO placements_old
    SELECT id, plate_id, seq, part_id, sculpt_id, recipe_version_id, x_mm, y_mm, rotation_deg, resin_ml,
        resin_cost_minor + hands_cost_minor, copy_id, pinned
    FROM placements;
DROP TABLE placements;
ALTER TABLE placements_old RENAME TO placements;

CREATE TABLE runs_old (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    plate_id INTEGER NOT NULL UNIQUE REFERENCES plates (id),
    started_at_ms INTEGER NOT NULL,
    ended_at_ms INTEGER,
    room_c REAL,
    note TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO runs_old
    SELECT max(id), uid, row_version, plate_id, started_at_ms, ended_at_ms, room_c, note
    FROM runs GROUP BY plate_id;
DROP TABLE runs;
ALTER TABLE runs_old RENAME TO runs;

CREATE TABLE plates_old (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    project_id INTEGER NOT NULL REFERENCES projects (id),
    plan_id INTEGER NOT NULL REFERENCES plans (id),
    number INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('draft', 'planned', 'running', 'printed', 'done', 'released')),
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    layer_um INTEGER NOT NULL,
    setting_version_id INTEGER NOT NULL REFERENCES setting_versions (id),
    height_mm REAL NOT NULL,
    layers INTEGER NOT NULL,
    seconds REAL NOT NULL,
    resin_ml REAL NOT NULL,
    resin_g REAL NOT NULL,
    resin_cost_minor INTEGER NOT NULL,
    hands_on_cost_minor INTEGER NOT NULL
) STRICT;
INSERT INTO plates_old
    SELECT id, uid, row_version, project_id, plan_id, number,
        CASE state WHEN 'lost' THEN 'done' ELSE state END, printer_id, resin_id, layer_um,
        setting_version_id, height_mm, layers, seconds, resin_ml, resin_g, resin_cost_minor,
        hands_on_cost_minor
    FROM plates;
DROP TABLE plates;
ALTER TABLE plates_old RENAME TO plates;
CREATE INDEX plates_of_plan ON plates (plan_id);
CREATE INDEX plates_of_project ON plates (project_id, state);

CREATE TABLE copies_old (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    part_id INTEGER NOT NULL REFERENCES parts (id),
    number INTEGER NOT NULL,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    stage TEXT NOT NULL CHECK (stage IN ('planned', 'printing', 'in finishing', 'good', 'failed', 'surplus', 'released')),
    cause TEXT,
    note TEXT NOT NULL DEFAULT '',
    changed_at_ms INTEGER NOT NULL,
    UNIQUE (part_id, number),
    CHECK ((stage = 'failed') = (cause IS NOT NULL))
) STRICT;
INSERT INTO copies_old
    SELECT id, uid, row_version, part_id, row_number() OVER (PARTITION BY part_id ORDER BY mark),
        plate_id, sculpt_id, recipe_version_id, stage, cause, note, changed_at_ms
    FROM copies;
DROP TABLE copies;
ALTER TABLE copies_old RENAME TO copies;
CREATE INDEX copies_of_plate ON copies (plate_id);
