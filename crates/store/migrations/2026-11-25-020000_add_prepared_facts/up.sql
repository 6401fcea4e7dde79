-- What layers tell: figures of a sculpt as a recipe prints it, kept apart from the facts of its
-- bytes. And the unit a file was drawn in: guessed, asked, answered.

ALTER TABLE sculpts ADD COLUMN unit_mm REAL NOT NULL DEFAULT 1.0;
ALTER TABLE sculpts ADD COLUMN unit_asked TEXT;
ALTER TABLE sculpts ADD COLUMN unit_answered INTEGER NOT NULL DEFAULT 0;
ALTER TABLE sculpt_facts ADD COLUMN shell_sum_mm3 REAL NOT NULL DEFAULT 0.0;
ALTER TABLE sculpt_facts ADD COLUMN warnings TEXT NOT NULL DEFAULT '[]';

CREATE TABLE prepared_facts (
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

-- A kind of task more: SQLite changes a CHECK only with the table.
CREATE TABLE tasks_new (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    kind TEXT NOT NULL CHECK (kind IN ('measure', 'plan', 'prepare')),
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
