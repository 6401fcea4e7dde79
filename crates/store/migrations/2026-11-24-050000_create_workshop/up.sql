-- One file is the whole workshop. Every table is STRICT, states are words, nothing cascades.
-- Columns ending in _ms are milliseconds since 1970 in UTC; _um micrometres; _minor minor units
-- of the workshop's currency. `assumed` lists the columns nobody has confirmed yet.

CREATE TABLE workshop (
    id INTEGER NOT NULL PRIMARY KEY CHECK (id = 1),
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    name TEXT NOT NULL,
    currency TEXT NOT NULL,
    time_zone TEXT NOT NULL,
    layer_um INTEGER NOT NULL,
    clearance_mm REAL NOT NULL,
    waste_share REAL NOT NULL,
    hands_on_minutes REAL NOT NULL,
    hands_on_per_hour_minor INTEGER NOT NULL,
    assumed TEXT NOT NULL
) STRICT;

CREATE TABLE printers (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    name TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('screen', 'tilting vat', 'beam')),
    width_mm REAL NOT NULL,
    depth_mm REAL NOT NULL,
    height_mm REAL NOT NULL,
    margin_mm REAL NOT NULL,
    startup_s REAL NOT NULL,
    assumed TEXT NOT NULL,
    removed_at_ms INTEGER
) STRICT;

CREATE TABLE resins (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    name TEXT NOT NULL,
    price_per_kg_minor INTEGER NOT NULL,
    density_g_per_ml REAL NOT NULL,
    viscosity TEXT NOT NULL CHECK (viscosity IN ('thin', 'medium', 'thick')),
    nature TEXT NOT NULL CHECK (nature IN ('rigid', 'tough', 'soft')),
    wash_agents TEXT NOT NULL,
    assumed TEXT NOT NULL,
    removed_at_ms INTEGER
) STRICT;

CREATE TABLE process_settings (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    layer_um INTEGER NOT NULL,
    UNIQUE (printer_id, resin_id, layer_um)
) STRICT;

CREATE TABLE setting_versions (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    setting_id INTEGER NOT NULL REFERENCES process_settings (id),
    version INTEGER NOT NULL,
    exposure_s REAL NOT NULL,
    bottom_layers INTEGER NOT NULL,
    bottom_exposure_s REAL NOT NULL,
    lift_mm REAL NOT NULL,
    lift_mm_per_min REAL NOT NULL,
    retract_mm_per_min REAL NOT NULL,
    rest_s REAL NOT NULL,
    tilt_cycle_s REAL NOT NULL,
    beam_mm2_per_s REAL NOT NULL,
    beam_mm_per_s REAL NOT NULL,
    assumed TEXT NOT NULL,
    created_at_ms INTEGER NOT NULL,
    UNIQUE (setting_id, version)
) STRICT;

CREATE TABLE projects (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    name TEXT NOT NULL,
    removed_at_ms INTEGER
) STRICT;

CREATE TABLE units (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    project_id INTEGER NOT NULL REFERENCES projects (id),
    name TEXT NOT NULL,
    priority INTEGER NOT NULL,
    position INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX units_of_project ON units (project_id);

CREATE TABLE models (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    unit_id INTEGER NOT NULL REFERENCES units (id),
    name TEXT NOT NULL,
    quantity INTEGER NOT NULL,
    base_width_mm REAL NOT NULL,
    base_depth_mm REAL NOT NULL,
    position INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX models_of_unit ON models (unit_id);

CREATE TABLE sculpts (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    name TEXT NOT NULL,
    file_name TEXT NOT NULL,
    hash TEXT UNIQUE,
    bytes INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('incoming', 'waiting', 'measured', 'refused')),
    refusal TEXT,
    imported_at_ms INTEGER NOT NULL,
    removed_at_ms INTEGER,
    CHECK (state = 'incoming' OR hash IS NOT NULL OR refusal IS NOT NULL)
) STRICT;

CREATE TABLE sculpt_chunks (
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    seq INTEGER NOT NULL,
    data BLOB NOT NULL,
    PRIMARY KEY (sculpt_id, seq)
) STRICT, WITHOUT ROWID;

CREATE TABLE sculpt_facts (
    sculpt_id INTEGER NOT NULL PRIMARY KEY REFERENCES sculpts (id),
    measure_version INTEGER NOT NULL,
    triangles INTEGER NOT NULL,
    dropped INTEGER NOT NULL,
    width_mm REAL NOT NULL,
    depth_mm REAL NOT NULL,
    height_mm REAL NOT NULL,
    volume_mm3 REAL NOT NULL,
    surface_mm2 REAL NOT NULL,
    shells INTEGER NOT NULL,
    inverted_shells INTEGER NOT NULL,
    inner_shells INTEGER NOT NULL,
    open_edge_mm REAL NOT NULL,
    outline TEXT NOT NULL,
    reach TEXT NOT NULL,
    measured_at_ms INTEGER NOT NULL
) STRICT;

CREATE TABLE recipes (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE
) STRICT;

CREATE TABLE recipe_versions (
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

CREATE TABLE parts (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    model_id INTEGER NOT NULL REFERENCES models (id),
    name TEXT NOT NULL,
    count INTEGER NOT NULL,
    spares INTEGER NOT NULL,
    sculpt_id INTEGER REFERENCES sculpts (id),
    recipe_id INTEGER NOT NULL REFERENCES recipes (id),
    position INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX parts_of_model ON parts (model_id);
CREATE INDEX parts_of_sculpt ON parts (sculpt_id);

CREATE TABLE plans (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    project_id INTEGER NOT NULL REFERENCES projects (id),
    revision INTEGER NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('computing', 'draft', 'accepted', 'dropped', 'failed')),
    fingerprint TEXT NOT NULL,
    refusal TEXT,
    created_at_ms INTEGER NOT NULL,
    accepted_at_ms INTEGER,
    UNIQUE (project_id, revision)
) STRICT;

CREATE TABLE plan_demand (
    plan_id INTEGER NOT NULL REFERENCES plans (id),
    part_id INTEGER NOT NULL REFERENCES parts (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    recipe_version_id INTEGER NOT NULL REFERENCES recipe_versions (id),
    wanted INTEGER NOT NULL,
    left_over INTEGER NOT NULL DEFAULT 0,
    left_over_why TEXT CHECK (left_over_why IN ('too tall', 'too wide', 'no printer')),
    PRIMARY KEY (plan_id, part_id)
) STRICT, WITHOUT ROWID;

CREATE TABLE plates (
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
CREATE INDEX plates_of_plan ON plates (plan_id);
CREATE INDEX plates_of_project ON plates (project_id, state);

CREATE TABLE copies (
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
CREATE INDEX copies_of_plate ON copies (plate_id);

CREATE TABLE placements (
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
    UNIQUE (plate_id, seq)
) STRICT;

CREATE TABLE runs (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    plate_id INTEGER NOT NULL UNIQUE REFERENCES plates (id),
    started_at_ms INTEGER NOT NULL,
    ended_at_ms INTEGER,
    room_c REAL,
    note TEXT NOT NULL DEFAULT ''
) STRICT;

CREATE TABLE tasks (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    kind TEXT NOT NULL CHECK (kind IN ('measure', 'plan')),
    input_key TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'parked')),
    attempts INTEGER NOT NULL DEFAULT 0,
    progress REAL NOT NULL DEFAULT 0,
    message TEXT NOT NULL DEFAULT '',
    changed_at_ms INTEGER NOT NULL,
    UNIQUE (kind, input_key)
) STRICT;
CREATE INDEX tasks_by_state ON tasks (state);

INSERT INTO workshop VALUES (
    1, lower(hex(randomblob(16))), 1, 'My workshop', 'EUR', 'UTC', 50, 1.0, 0.1, 30.0, 1500,
    'name,currency,time_zone,layer_um,clearance_mm,waste_share,hands_on_minutes,hands_on_per_hour_minor'
);
