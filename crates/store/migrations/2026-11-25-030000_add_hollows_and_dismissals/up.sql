-- Hollows: those of the file, and what hollowing with a wall would do. Findings put aside with a
-- reason.

ALTER TABLE sculpts ADD COLUMN wall_um INTEGER NOT NULL DEFAULT 2000;

CREATE TABLE hollow_facts (
    id INTEGER NOT NULL PRIMARY KEY,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    unit_mm REAL NOT NULL,
    wall_um INTEGER NOT NULL,
    measure_version INTEGER NOT NULL,
    saved_mm3 REAL NOT NULL,
    uncertain_mm3 REAL NOT NULL,
    pitch_mm REAL NOT NULL,
    pockets INTEGER NOT NULL,
    drains_needed INTEGER NOT NULL,
    drains TEXT NOT NULL,
    trapped_mm3 REAL NOT NULL,
    left_hanging_mm3 REAL NOT NULL,
    left_standing_mm3 REAL NOT NULL,
    hollows TEXT NOT NULL,
    measured_at_ms INTEGER NOT NULL,
    UNIQUE (sculpt_id, unit_mm, wall_um, measure_version)
) STRICT;

CREATE TABLE dismissals (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    finding TEXT NOT NULL,
    reason TEXT NOT NULL,
    dismissed_at_ms INTEGER NOT NULL,
    UNIQUE (sculpt_id, finding)
) STRICT;

-- Pictures of a sculpt from its four sides; measured again, drawn again.
CREATE TABLE sculpt_pictures (
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    side TEXT NOT NULL CHECK (side IN ('front', 'right', 'back', 'left')),
    png BLOB NOT NULL,
    PRIMARY KEY (sculpt_id, side)
) STRICT, WITHOUT ROWID;

-- Candidates for one part, and the one that was picked, with the reason.
ALTER TABLE sculpts ADD COLUMN price_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE printers ADD COLUMN pixel_um INTEGER NOT NULL DEFAULT 35;
UPDATE printers SET assumed = CASE assumed WHEN '' THEN 'pixel_um' ELSE assumed || ',pixel_um' END;
CREATE TABLE picks (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    part_id INTEGER NOT NULL REFERENCES parts (id),
    sculpt_id INTEGER NOT NULL REFERENCES sculpts (id),
    reason TEXT NOT NULL,
    picked_at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX picks_of_part ON picks (part_id);

CREATE TABLE tasks_new (
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
INSERT INTO tasks_new SELECT id, uid, kind, input_key, state, attempts, progress, message, changed_at_ms FROM tasks;
DROP TABLE tasks;
ALTER TABLE tasks_new RENAME TO tasks;
CREATE INDEX tasks_by_state ON tasks (state);
