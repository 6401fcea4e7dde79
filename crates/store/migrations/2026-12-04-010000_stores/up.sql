-- The books of resin: bottles as they came, and every move from one place to another. What a place holds
-- is what was moved there less what was moved away.
CREATE TABLE bottles (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    size_ml REAL NOT NULL CHECK (size_ml > 0),
    price_minor INTEGER NOT NULL CHECK (price_minor >= 0),
    came_at_ms INTEGER NOT NULL,
    best_before_ms INTEGER
) STRICT;

CREATE TABLE moves (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    from_place TEXT NOT NULL,
    from_bottle_id INTEGER REFERENCES bottles (id),
    from_printer_id INTEGER REFERENCES printers (id),
    to_place TEXT NOT NULL,
    to_bottle_id INTEGER REFERENCES bottles (id),
    to_printer_id INTEGER REFERENCES printers (id),
    ul INTEGER NOT NULL CHECK (ul > 0),
    resin_id INTEGER REFERENCES resins (id),
    run_id INTEGER REFERENCES runs (id),
    note TEXT NOT NULL DEFAULT '',
    moved_at_ms INTEGER NOT NULL
) STRICT;

CREATE TABLE vats (
    printer_id INTEGER PRIMARY KEY NOT NULL REFERENCES printers (id),
    least_ml REAL NOT NULL CHECK (least_ml >= 0),
    most_ml REAL NOT NULL CHECK (most_ml > 0)
) STRICT;
