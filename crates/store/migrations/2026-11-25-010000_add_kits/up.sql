-- Kits: choices between options, pieces that are not printed, what carries a unit; the practice.

CREATE TABLE choices (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    model_id INTEGER NOT NULL REFERENCES models (id),
    name TEXT NOT NULL,
    may_go_without INTEGER NOT NULL CHECK (may_go_without IN (0, 1)),
    position INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX choices_of_model ON choices (model_id);

CREATE TABLE options (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    choice_id INTEGER NOT NULL REFERENCES choices (id),
    name TEXT NOT NULL,
    models INTEGER NOT NULL,
    position INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX options_of_choice ON options (choice_id);

CREATE TABLE pieces (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    row_version INTEGER NOT NULL DEFAULT 1,
    model_id INTEGER NOT NULL REFERENCES models (id),
    option_id INTEGER REFERENCES options (id),
    name TEXT NOT NULL,
    source TEXT NOT NULL CHECK (source IN ('box', 'scratch-built', 'another process')),
    count INTEGER NOT NULL,
    at_hand INTEGER NOT NULL,
    cost_each_minor INTEGER NOT NULL,
    minutes_each REAL NOT NULL,
    position INTEGER NOT NULL,
    removed_at_ms INTEGER
) STRICT;
CREATE INDEX pieces_of_model ON pieces (model_id);

ALTER TABLE parts ADD COLUMN option_id INTEGER REFERENCES options (id);
ALTER TABLE models ADD COLUMN carries INTEGER NOT NULL DEFAULT 0;
ALTER TABLE units ADD COLUMN carrier_id INTEGER REFERENCES models (id);

CREATE TABLE practices (
    id INTEGER NOT NULL PRIMARY KEY,
    project_id INTEGER REFERENCES projects (id),
    question TEXT NOT NULL,
    answer TEXT NOT NULL
) STRICT;
CREATE UNIQUE INDEX practices_once ON practices (coalesce(project_id, 0), question);
