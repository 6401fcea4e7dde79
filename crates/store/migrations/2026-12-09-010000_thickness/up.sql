-- What is thin about a part is measured with its place now, and with what would break off: its
-- layers are measured anew, with everything else that is known of them.
ALTER TABLE layer_facts DROP COLUMN thinnest_mm;
ALTER TABLE layer_facts DROP COLUMN thinnest_at_mm;
ALTER TABLE layer_facts ADD COLUMN thickness TEXT NOT NULL DEFAULT '[null,null]';
