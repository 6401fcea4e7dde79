-- How long hands were on a plate: from taps at both ends, or as somebody said later. One without minutes is
-- under way.
CREATE TABLE hand_spells (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    plate_id INTEGER NOT NULL REFERENCES plates (id),
    began_at_ms INTEGER NOT NULL,
    minutes REAL CHECK (minutes > 0)
) STRICT;
CREATE INDEX hand_spells_by_plate ON hand_spells (plate_id);
