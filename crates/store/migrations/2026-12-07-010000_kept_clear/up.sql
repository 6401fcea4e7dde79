-- The quarter of a printer's plate that slender parts are kept out of; empty where the maker has not asked for it.
ALTER TABLE printers ADD COLUMN kept_clear TEXT NOT NULL DEFAULT '';
