CREATE TABLE tasks_old (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    kind TEXT NOT NULL CHECK (kind IN ('measure', 'plan', 'prepare', 'hollow')),
    input_key TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'parked')),
    attempts INTEGER NOT NULL DEFAULT 0,
    progress REAL NOT NULL DEFAULT 0,
    message TEXT NOT NULL DEFAULT '',
    changed_at_ms INTEGER NOT NULL,
    UNIQUE (kind, input_key)
) STRICT;
INSERT INTO tasks_old SELECT id, uid, kind, input_key, state, attempts, progress, message, changed_at_ms
    FROM tasks WHERE kind NOT IN ('poses', 'register');
DROP TABLE tasks;
ALTER TABLE tasks_old RENAME TO tasks;
CREATE INDEX tasks_by_state ON tasks (state);
DROP TABLE marks;
DROP TABLE variants;
DROP TABLE trials;
DROP TABLE scale_attempts;
DROP TABLE joints;
DROP TABLE fine_zones;
DROP TABLE poses;
DROP TABLE print_meshes;
DROP TABLE hung_facts;
CREATE TABLE prepared_facts_old (
    id INTEGER NOT NULL PRIMARY KEY,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    unit_mm REAL NOT NULL,
    scale REAL NOT NULL,
    layer_um INTEGER NOT NULL,
    orientation TEXT NOT NULL CHECK (orientation IN ('as imported')),
    measure_version INTEGER NOT NULL,
    layers INTEGER NOT NULL,
    pitch_mm REAL NOT NULL,
    volume_mm3 REAL NOT NULL,
    largest_section_mm2 REAL NOT NULL,
    overhang_mm2 REAL NOT NULL,
    thinnest_mm REAL,
    thinnest_at_mm REAL NOT NULL,
    tips_at_deg REAL NOT NULL,
    sealed_mm3 REAL NOT NULL,
    peak_pull REAL NOT NULL,
    peak_pull_at_mm REAL NOT NULL,
    islands TEXT NOT NULL,
    cups TEXT NOT NULL,
    area_curve TEXT NOT NULL,
    measured_at_ms INTEGER NOT NULL,
    UNIQUE (sculpt_id, unit_mm, scale, layer_um, orientation, measure_version)
) STRICT;
INSERT INTO prepared_facts_old
    SELECT id, sculpt_id, unit_mm, scale, layer_um, orientation, measure_version, layers, pitch_mm,
        volume_mm3, largest_section_mm2, overhang_mm2, thinnest_mm, thinnest_at_mm, tips_at_deg,
        sealed_mm3, peak_pull, peak_pull_at_mm, islands, cups, area_curve, measured_at_ms
    FROM prepared_facts WHERE orientation = 'as imported';
DROP TABLE prepared_facts;
ALTER TABLE prepared_facts_old RENAME TO prepared_facts;
ALTER TABLE sculpts DROP COLUMN role;
ALTER TABLE sculpt_facts DROP COLUMN pull_tilted;
ALTER TABLE sculpt_facts DROP COLUMN pull_upright;
ALTER TABLE setting_versions DROP COLUMN for_trial;
ALTER TABLE resins DROP COLUMN fuses_um;
ALTER TABLE resins DROP COLUMN safe_um;
ALTER TABLE recipes DROP COLUMN sanded;
ALTER TABLE recipes DROP COLUMN scale_lock;
CREATE TABLE recipe_versions_old (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    recipe_id INTEGER NOT NULL REFERENCES recipes (id),
    version INTEGER NOT NULL,
    scale REAL NOT NULL,
    orientation TEXT NOT NULL CHECK (orientation IN ('as imported')),
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    layer_um INTEGER NOT NULL,
    created_at_ms INTEGER NOT NULL,
    UNIQUE (recipe_id, version)
) STRICT;
INSERT INTO recipe_versions_old
    SELECT id, uid, recipe_id, version, scale, 'as imported', resin_id, layer_um, created_at_ms FROM recipe_versions;
DROP TABLE recipe_versions;
ALTER TABLE recipe_versions_old RENAME TO recipe_versions;
