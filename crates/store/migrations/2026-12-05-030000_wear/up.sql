-- What wears, as it was put in: a row for each time something was replaced. The newest of a kind counts.
CREATE TABLE wears (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    kind TEXT NOT NULL,
    printer_id INTEGER REFERENCES printers (id),
    life REAL NOT NULL CHECK (life > 0),
    second REAL NOT NULL CHECK (second > 0),
    since_ms INTEGER NOT NULL
) STRICT;
-- What of a printer was changed: its film or its screen; with a resin, its batch.
ALTER TABLE bench_changes ADD COLUMN what TEXT NOT NULL DEFAULT 'film';
