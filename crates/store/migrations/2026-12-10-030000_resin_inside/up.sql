-- Liquid resin that stays in hollows without a way out: it is taken from the vat, and cures to nothing.
ALTER TABLE plates ADD COLUMN inside_ml REAL NOT NULL DEFAULT 0;
