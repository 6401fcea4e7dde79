-- What stands open in a project and was put aside, with the maker's reason.
CREATE TABLE concerns_put_aside (
    id INTEGER NOT NULL PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE,
    project_id INTEGER NOT NULL REFERENCES projects (id),
    concern TEXT NOT NULL,
    words TEXT NOT NULL,
    reason TEXT NOT NULL,
    put_aside_at_ms INTEGER NOT NULL,
    UNIQUE (project_id, concern)
) STRICT;
