-- What plates cost, by component, and what that is reckoned from (rule 3). Plates that were accepted before keep
-- what they cost then: nothing was said of the other components.
ALTER TABLE plates ADD COLUMN consumables_cost_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE plates ADD COLUMN power_cost_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE plates ADD COLUMN wear_cost_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE plates ADD COLUMN cost_basis TEXT NOT NULL DEFAULT '';
ALTER TABLE placements ADD COLUMN consumables_cost_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE placements ADD COLUMN power_cost_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE placements ADD COLUMN wear_cost_minor INTEGER NOT NULL DEFAULT 0;
-- Prices: electricity, what a printer draws, what it cost and how long it lasts, what wears. 0 counts nothing.
ALTER TABLE workshop ADD COLUMN copy_minutes REAL NOT NULL DEFAULT 0;
ALTER TABLE workshop ADD COLUMN contact_minutes REAL NOT NULL DEFAULT 0;
ALTER TABLE workshop ADD COLUMN kwh_minor INTEGER NOT NULL DEFAULT 30;
UPDATE workshop SET assumed = trim(assumed || ',kwh_minor', ',');
ALTER TABLE printers ADD COLUMN watts REAL NOT NULL DEFAULT 60;
ALTER TABLE printers ADD COLUMN price_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE printers ADD COLUMN life_h REAL NOT NULL DEFAULT 4000;
UPDATE printers SET assumed = trim(assumed || ',watts,life_h', ',');
ALTER TABLE wears ADD COLUMN price_minor INTEGER NOT NULL DEFAULT 0;
-- A bundle of files or a subscription, its price over the copies made of what came with it.
CREATE TABLE bundles (
    id INTEGER PRIMARY KEY NOT NULL,
    uid TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    price_minor INTEGER NOT NULL CHECK (price_minor >= 0),
    bought_at_ms INTEGER NOT NULL
) STRICT;
ALTER TABLE sculpts ADD COLUMN bundle_id INTEGER REFERENCES bundles (id);
-- Why so many spares are printed.
ALTER TABLE parts ADD COLUMN spares_why TEXT NOT NULL DEFAULT '';
