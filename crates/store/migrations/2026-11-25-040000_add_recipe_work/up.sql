-- How parts hang: orientation and supports in recipes, what is measured of them as they hang,
-- poses compared, meshes supported elsewhere, scale and what limits it, trials.

-- Any orientation and supports, as core writes them: SQLite changes a CHECK only with the table.
CREATE TABLE recipe_versions_new (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    recipe_id INTEGER NOT NULL REFERENCES recipes (id),
    version INTEGER NOT NULL,
    scale REAL NOT NULL,
    orientation TEXT NOT NULL,
    supports TEXT NOT NULL,
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    layer_um INTEGER NOT NULL,
    -- What it says differently from the version before.
    changed TEXT NOT NULL DEFAULT '',
    created_at_ms INTEGER NOT NULL,
    UNIQUE (recipe_id, version)
) STRICT;
INSERT INTO recipe_versions_new
    SELECT id, uid, recipe_id, version, scale, orientation, 'none', resin_id, layer_um, '', created_at_ms
    FROM recipe_versions;
DROP TABLE recipe_versions;
ALTER TABLE recipe_versions_new RENAME TO recipe_versions;

-- Why a recipe's scale may not be changed to fit; empty when it may. Whether the part is sanded.
ALTER TABLE recipes ADD COLUMN scale_lock TEXT NOT NULL DEFAULT '';
ALTER TABLE recipes ADD COLUMN sanded INTEGER NOT NULL DEFAULT 0;

-- Thinnest feature a resin survives, widest gap it closes.
ALTER TABLE resins ADD COLUMN safe_um INTEGER NOT NULL DEFAULT 500;
ALTER TABLE resins ADD COLUMN fuses_um INTEGER NOT NULL DEFAULT 200;
UPDATE resins SET assumed = CASE assumed WHEN '' THEN 'safe_mm,fuses_mm' ELSE assumed || ',safe_mm,fuses_mm' END;

-- A timing for a trial does not replace the one in use.
ALTER TABLE setting_versions ADD COLUMN for_trial INTEGER NOT NULL DEFAULT 0;

-- Hardest pull standing and leaning far back, by a quick look.
ALTER TABLE sculpt_facts ADD COLUMN pull_upright REAL;
ALTER TABLE sculpt_facts ADD COLUMN pull_tilted REAL;

-- A supported mesh comes in as a file like any other, but is no sculpt to choose.
ALTER TABLE sculpts ADD COLUMN role TEXT NOT NULL DEFAULT 'design' CHECK (role IN ('design', 'print mesh'));

CREATE TABLE prepared_facts_new (
    id INTEGER NOT NULL PRIMARY KEY,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    unit_mm REAL NOT NULL,
    scale REAL NOT NULL,
    layer_um INTEGER NOT NULL,
    orientation TEXT NOT NULL,
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
    support_columns INTEGER NOT NULL,
    islands TEXT NOT NULL,
    cups TEXT NOT NULL,
    area_curve TEXT NOT NULL,
    measured_at_ms INTEGER NOT NULL,
    UNIQUE (sculpt_id, unit_mm, scale, layer_um, orientation, measure_version)
) STRICT;
INSERT INTO prepared_facts_new
    SELECT id, sculpt_id, unit_mm, scale, layer_um, orientation, measure_version, layers, pitch_mm,
        volume_mm3, largest_section_mm2, overhang_mm2, thinnest_mm, thinnest_at_mm, tips_at_deg,
        sealed_mm3, peak_pull, peak_pull_at_mm, 0, islands, cups, area_curve, measured_at_ms
    FROM prepared_facts;
DROP TABLE prepared_facts;
ALTER TABLE prepared_facts_new RENAME TO prepared_facts;

-- A part with its supports, ready for a plate.
CREATE TABLE hung_facts (
    id INTEGER NOT NULL PRIMARY KEY,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    unit_mm REAL NOT NULL,
    scale REAL NOT NULL,
    layer_um INTEGER NOT NULL,
    orientation TEXT NOT NULL,
    supports TEXT NOT NULL,
    measure_version INTEGER NOT NULL,
    height_mm REAL NOT NULL,
    part_mm3 REAL NOT NULL,
    support_mm3 REAL NOT NULL,
    surface_mm2 REAL NOT NULL,
    contacts INTEGER NOT NULL,
    fine_contacts INTEGER NOT NULL,
    minutes REAL NOT NULL,
    starts_left INTEGER NOT NULL,
    peak_pull REAL NOT NULL,
    peak_pull_at_mm REAL NOT NULL,
    outline TEXT NOT NULL,
    reach TEXT NOT NULL,
    drawn TEXT NOT NULL,
    picture BLOB NOT NULL,
    measured_at_ms INTEGER NOT NULL,
    UNIQUE (sculpt_id, unit_mm, scale, layer_um, orientation, supports, measure_version)
) STRICT;

-- Meshes supported elsewhere, laid over the design as it was exported.
CREATE TABLE print_meshes (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    recipe_id INTEGER NOT NULL REFERENCES recipes (id),
    design_id INTEGER NOT NULL REFERENCES sculpts (id),
    file_id INTEGER NOT NULL REFERENCES sculpts (id),
    scale REAL NOT NULL,
    orientation TEXT NOT NULL,
    layer_um INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'measured', 'refused')),
    refusal TEXT,
    size_factor REAL,
    turned_deg REAL,
    leans_deg REAL,
    shift_mm REAL,
    rms_mm REAL,
    support_mm3 REAL,
    contacts INTEGER,
    height_mm REAL,
    arrived_at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX print_meshes_of_recipe ON print_meshes (recipe_id);

-- Poses of a sculpt compared, for one way of asking; the newest asking counts.
CREATE TABLE poses (
    id INTEGER NOT NULL PRIMARY KEY,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    asked TEXT NOT NULL,
    seq INTEGER NOT NULL,
    orientation TEXT NOT NULL,
    origin TEXT NOT NULL,
    scores TEXT NOT NULL,
    height_mm REAL NOT NULL,
    contacts INTEGER NOT NULL,
    best_in TEXT NOT NULL,
    undominated INTEGER NOT NULL,
    picture BLOB NOT NULL,
    UNIQUE (sculpt_id, asked, seq)
) STRICT;

-- Places marked fine, in the coordinates of the file, mm.
CREATE TABLE fine_zones (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    x_mm REAL NOT NULL,
    y_mm REAL NOT NULL,
    z_mm REAL NOT NULL,
    radius_mm REAL NOT NULL,
    side TEXT NOT NULL CHECK (side IN ('front', 'right', 'back', 'left'))
) STRICT;
CREATE INDEX fine_zones_of_sculpt ON fine_zones (sculpt_id);

-- Joints that must stay free, with the gap at the size of the file.
CREATE TABLE joints (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    name TEXT NOT NULL,
    gap_mm REAL NOT NULL
) STRICT;
CREATE INDEX joints_of_sculpt ON joints (sculpt_id);

-- What came of a scale on a printer with a resin.
CREATE TABLE scale_attempts (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    scale REAL NOT NULL,
    outcome TEXT NOT NULL CHECK (outcome IN ('worked', 'fused')),
    noted_at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX scale_attempts_of_sculpt ON scale_attempts (sculpt_id);

CREATE TABLE trials (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    part_id INTEGER NOT NULL REFERENCES parts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    state TEXT NOT NULL CHECK (state IN ('open', 'planned', 'decided', 'dropped')),
    criteria TEXT NOT NULL,
    plan_id INTEGER REFERENCES plans (id),
    winner_id INTEGER,
    -- The version that took over the winner.
    won_version_id INTEGER REFERENCES recipe_versions (id),
    reason TEXT NOT NULL DEFAULT '',
    begun_at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX trials_of_part ON trials (part_id);

CREATE TABLE variants (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    trial_id INTEGER NOT NULL REFERENCES trials (id),
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    exposure_s REAL,
    note TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX variants_of_trial ON variants (trial_id);

CREATE TABLE marks (
    variant_id INTEGER NOT NULL REFERENCES variants (id),
    criterion TEXT NOT NULL,
    mark INTEGER NOT NULL CHECK (mark BETWEEN 1 AND 5),
    PRIMARY KEY (variant_id, criterion)
) STRICT, WITHOUT ROWID;

CREATE TABLE tasks_new (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    kind TEXT NOT NULL CHECK (kind IN ('measure', 'plan', 'prepare', 'hollow', 'poses', 'register')),
    input_key TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'parked')),
    attempts INTEGER NOT NULL DEFAULT 0,
    progress REAL NOT NULL DEFAULT 0,
    message TEXT NOT NULL DEFAULT '',
    changed_at_ms INTEGER NOT NULL,
    UNIQUE (kind, input_key)
) STRICT;
INSERT INTO tasks_new SELECT id, uid, kind, input_key, state, attempts, progress, message, changed_at_ms FROM tasks;
DROP TABLE tasks;
ALTER TABLE tasks_new RENAME TO tasks;
CREATE INDEX tasks_by_state ON tasks (state);
