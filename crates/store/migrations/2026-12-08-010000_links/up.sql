-- Printers that are connected: where each answers.
CREATE TABLE printer_links (
    printer_id INTEGER NOT NULL PRIMARY KEY REFERENCES printers (id),
    address TEXT NOT NULL UNIQUE CHECK (address <> '')
) STRICT;

-- What a connected printer is told. Written before it is sent, sent as often as it takes under the same uid, and
-- answered once. One at a time is open of each printer.
CREATE TABLE link_commands (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    kind TEXT NOT NULL CHECK (kind IN ('send', 'start', 'pause', 'resume', 'stop', 'clear')),
    state TEXT NOT NULL CHECK (state IN ('written', 'sent', 'done', 'refused', 'withdrawn')),
    file TEXT NOT NULL DEFAULT '',
    checksum TEXT NOT NULL DEFAULT '',
    -- What somebody said before a start, as JSON.
    said TEXT NOT NULL DEFAULT '',
    why TEXT NOT NULL DEFAULT '',
    written_at_ms INTEGER NOT NULL,
    sent_at_ms INTEGER,
    answered_at_ms INTEGER
) STRICT;
CREATE UNIQUE INDEX link_commands_open ON link_commands (printer_id) WHERE state IN ('written', 'sent');
CREATE INDEX link_commands_of_plate ON link_commands (plate_id);

-- What a machine said of a run that was begun over its link; by its own count.
CREATE TABLE machine_runs (
    run_id INTEGER NOT NULL PRIMARY KEY REFERENCES runs (id),
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    number INTEGER NOT NULL,
    state TEXT NOT NULL DEFAULT 'printing',
    trouble TEXT NOT NULL DEFAULT '',
    layer INTEGER NOT NULL DEFAULT 0,
    printed_s REAL NOT NULL DEFAULT 0,
    began_ml REAL,
    seen_at_ms INTEGER NOT NULL,
    over_at_ms INTEGER
) STRICT;
CREATE INDEX machine_runs_of_printer ON machine_runs (printer_id, number);

-- How much sooner a run ends than it should, by the word of its machine.
ALTER TABLE runs ADD COLUMN ahead_ms INTEGER NOT NULL DEFAULT 0;
