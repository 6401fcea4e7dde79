-- A day by hand: what was looked to before a start and during a run, batches on their way through
-- finishing, copies to be mended or looked for, photographs, what was changed after a failure.

ALTER TABLE runs ADD COLUMN vat_ml REAL;
ALTER TABLE runs ADD COLUMN refill_after_s REAL;
ALTER TABLE runs ADD COLUMN paused_at_ms INTEGER;
ALTER TABLE runs ADD COLUMN paused_ms INTEGER NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN looked_at_ms INTEGER;
ALTER TABLE runs ADD COLUMN refilled_at_ms INTEGER;
ALTER TABLE runs ADD COLUMN trouble TEXT NOT NULL DEFAULT '';

CREATE TABLE run_checks (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    run_id INTEGER NOT NULL REFERENCES runs (id),
    item TEXT NOT NULL,
    answer TEXT NOT NULL CHECK (answer IN ('computed', 'ticked', 'passed over')),
    words TEXT NOT NULL DEFAULT '',
    UNIQUE (run_id, item)
) STRICT;

-- Looks into a vat between two runs; what was found there, in words.
CREATE TABLE vat_checks (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    checked_at_ms INTEGER NOT NULL,
    found TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX vat_checks_of_printer ON vat_checks (printer_id, checked_at_ms);

-- Why a printer is to be looked into before its next run; empty where it is not.
ALTER TABLE printers ADD COLUMN to_check TEXT NOT NULL DEFAULT '';

ALTER TABLE copies ADD COLUMN failed_at TEXT;
ALTER TABLE copies ADD COLUMN failed_layer INTEGER;
ALTER TABLE copies ADD COLUMN mend TEXT NOT NULL DEFAULT '';
ALTER TABLE copies ADD COLUMN mend_minutes REAL;
ALTER TABLE copies ADD COLUMN missing INTEGER NOT NULL DEFAULT 0;

CREATE TABLE batches (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    run_id INTEGER NOT NULL UNIQUE REFERENCES runs (id),
    off_at_ms INTEGER NOT NULL,
    counted INTEGER
) STRICT;

CREATE TABLE batch_steps (
    batch_id INTEGER NOT NULL REFERENCES batches (id),
    seq INTEGER NOT NULL,
    step TEXT NOT NULL,
    minutes REAL NOT NULL,
    notes TEXT NOT NULL DEFAULT '[]',
    state TEXT NOT NULL CHECK (state IN ('ahead', 'now', 'done', 'skipped')),
    began_at_ms INTEGER,
    ends_at_ms INTEGER,
    reason TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (batch_id, seq)
) STRICT;

-- How parts felt after so long under the lamp.
CREATE TABLE cures (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    batch_id INTEGER NOT NULL REFERENCES batches (id),
    minutes REAL NOT NULL,
    feel TEXT NOT NULL CHECK (feel IN ('wobbly', 'tacky', 'hard')),
    felt_at_ms INTEGER NOT NULL
) STRICT;

CREATE TABLE photos (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    copy_id INTEGER NOT NULL REFERENCES copies (id),
    taken_at_ms INTEGER NOT NULL,
    jpeg BLOB NOT NULL
) STRICT;
CREATE INDEX photos_of_copy ON photos (copy_id);

-- A change that was made after a failure, and whether it held.
CREATE TABLE remedies (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    cause TEXT NOT NULL,
    change TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('made', 'held', 'did not hold')),
    made_at_ms INTEGER NOT NULL
) STRICT;

-- The hash of the passphrase that lets other devices in; empty where there is none.
ALTER TABLE workshop ADD COLUMN passphrase TEXT NOT NULL DEFAULT '';

-- Where a resin's safety data sheet is.
ALTER TABLE resins ADD COLUMN data_sheet TEXT NOT NULL DEFAULT '';
