-- Where a figure begins above the supports its file brings, and what it stands on there: files are
-- measured anew for it.
ALTER TABLE layer_facts ADD COLUMN raised TEXT;
