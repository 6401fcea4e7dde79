-- Models being built: each numbered among those of its kind, with the particular copies it keeps. Open and complete are
-- told apart by what it keeps; what was taken apart stays as a row and keeps nothing.
CREATE TABLE miniatures (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    model_id INTEGER NOT NULL REFERENCES models (id),
    number INTEGER NOT NULL,
    step TEXT NOT NULL,
    begun_at_ms INTEGER NOT NULL,
    changed_at_ms INTEGER NOT NULL,
    apart_at_ms INTEGER,
    UNIQUE (model_id, number)
) STRICT;

-- Options a miniature takes.
CREATE TABLE miniature_options (
    miniature_id INTEGER NOT NULL REFERENCES miniatures (id),
    option_id INTEGER NOT NULL REFERENCES options (id),
    PRIMARY KEY (miniature_id, option_id)
) STRICT;

-- Copies that no plate of this workshop printed. Their marks are of the one series of the workshop.
CREATE TABLE arrivals (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    mark INTEGER NOT NULL UNIQUE,
    part_id INTEGER NOT NULL REFERENCES parts (id),
    how TEXT NOT NULL,
    cost_minor INTEGER NOT NULL,
    note TEXT NOT NULL,
    arrived_at_ms INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX arrivals_by_part ON arrivals (part_id);

-- A copy is kept by one miniature at most.
CREATE TABLE reservations (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    miniature_id INTEGER NOT NULL REFERENCES miniatures (id),
    copy_id INTEGER UNIQUE REFERENCES copies (id),
    arrival_id INTEGER UNIQUE REFERENCES arrivals (id),
    CHECK ((copy_id IS NULL) <> (arrival_id IS NULL))
) STRICT;
CREATE INDEX reservations_by_miniature ON reservations (miniature_id);
