-- What was put on the scale: a plate as it dripped off or was washed, or copies of one part; with what was
-- reckoned then, before anything was learned, and the liquid it seems to hold.
CREATE TABLE weighings (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    resin_id INTEGER NOT NULL REFERENCES resins (id),
    part_id INTEGER REFERENCES parts (id),
    state TEXT NOT NULL,
    copies INTEGER NOT NULL CHECK (copies > 0),
    reckoned_g REAL NOT NULL CHECK (reckoned_g > 0),
    weighed_g REAL NOT NULL CHECK (weighed_g > 0),
    liquid_ml REAL,
    weighed_at_ms INTEGER NOT NULL
) STRICT;
-- What an empty bottle weighs, so that a full one can be weighed.
ALTER TABLE bottles ADD COLUMN empty_g REAL CHECK (empty_g > 0);
-- Why resin was lost, where it was written off.
ALTER TABLE moves ADD COLUMN cause TEXT NOT NULL DEFAULT '';
