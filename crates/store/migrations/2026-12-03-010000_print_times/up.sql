-- How long a run printed, as somebody said or saw, beside what was expected of it then: the log that
-- a printer's pace is learned from. When a run ended is when somebody came to take the plate off.
CREATE TABLE print_times (
    run_id INTEGER PRIMARY KEY NOT NULL REFERENCES runs (id),
    printer_id INTEGER NOT NULL REFERENCES printers (id),
    reckoned_s REAL NOT NULL CHECK (reckoned_s > 0),
    told INTEGER NOT NULL CHECK (told IN (0, 1)),
    printed_s REAL NOT NULL CHECK (printed_s > 0),
    said_at_ms INTEGER NOT NULL
) STRICT;
