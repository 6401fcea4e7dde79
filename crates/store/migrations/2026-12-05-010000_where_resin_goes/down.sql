ALTER TABLE resins DROP COLUMN cured_g_per_ml;
ALTER TABLE resins DROP COLUMN film_um;
UPDATE resins SET assumed = trim(replace(replace(',' || assumed || ',', ',cured_g_per_ml,', ','), ',film_mm,', ','), ',');
ALTER TABLE plates DROP COLUMN part_ml;
ALTER TABLE plates DROP COLUMN support_ml;
ALTER TABLE plates DROP COLUMN film_ml;
ALTER TABLE plates DROP COLUMN weighed_times;
