-- Tests of an exposure as they were judged, what a calliper said of how deep resin cures, and when a film
-- or a batch of resin was changed: by these an exposure is fresh, due or missing.
CREATE TABLE exposure_tests (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    setting_id INTEGER NOT NULL REFERENCES process_settings (id),
    of TEXT NOT NULL,
    exposure_s REAL NOT NULL CHECK (exposure_s > 0),
    verdict TEXT NOT NULL,
    room_c REAL,
    note TEXT NOT NULL DEFAULT '',
    tested_at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX exposure_tests_by_setting ON exposure_tests (setting_id, tested_at_ms);

CREATE TABLE ladder_steps (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    setting_id INTEGER NOT NULL REFERENCES process_settings (id),
    exposure_s REAL NOT NULL CHECK (exposure_s > 0),
    depth_mm REAL NOT NULL CHECK (depth_mm > 0),
    measured_at_ms INTEGER NOT NULL
) STRICT;
CREATE INDEX ladder_steps_by_setting ON ladder_steps (setting_id);

CREATE TABLE bench_changes (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    printer_id INTEGER REFERENCES printers (id),
    resin_id INTEGER REFERENCES resins (id),
    changed_at_ms INTEGER NOT NULL,
    CHECK ((printer_id IS NULL) <> (resin_id IS NULL))
) STRICT;
