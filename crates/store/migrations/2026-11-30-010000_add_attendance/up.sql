-- When somebody is there: windows of each day of the week in local time, days that are otherwise,
-- hours in which nothing prints, and what the hands need.
CREATE TABLE attendance (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    row_version INTEGER NOT NULL DEFAULT 1,
    weekly TEXT NOT NULL,
    otherwise TEXT NOT NULL DEFAULT '',
    quiet TEXT NOT NULL DEFAULT '',
    load_minutes REAL NOT NULL DEFAULT 10 CHECK (load_minutes BETWEEN 0 AND 240),
    unload_minutes REAL NOT NULL DEFAULT 10 CHECK (unload_minutes BETWEEN 0 AND 240),
    look_minutes REAL NOT NULL DEFAULT 10 CHECK (look_minutes BETWEEN 0 AND 240),
    change_minutes REAL NOT NULL DEFAULT 25 CHECK (change_minutes BETWEEN 0 AND 240),
    assumed TEXT NOT NULL DEFAULT 'weekly,load_minutes,unload_minutes,look_minutes,change_minutes'
) STRICT;
INSERT INTO attendance (id, weekly) VALUES
    (1, '08:00-22:00; 08:00-22:00; 08:00-22:00; 08:00-22:00; 08:00-22:00; 08:00-22:00; 08:00-22:00');
ALTER TABLE projects ADD COLUMN deadline_ms INTEGER;
-- Somebody wants it not before then.
ALTER TABLE plates ADD COLUMN not_before_ms INTEGER;
-- What the maker's own program says that it takes.
ALTER TABLE plates ADD COLUMN told_seconds REAL;
ALTER TABLE plates ADD COLUMN told_ml REAL;
