-- Resin of a plate by where it goes. What a resin weighs once cured and the film that stays on prints are
-- assumed at first. The share that was lost on top stood for film and shrinkage too: where nobody had
-- confirmed it, it is less now; where somebody had, it stays, and is asked for again.
ALTER TABLE resins ADD COLUMN cured_g_per_ml REAL NOT NULL DEFAULT 1.17 CHECK (cured_g_per_ml > 0);
ALTER TABLE resins ADD COLUMN film_um INTEGER NOT NULL DEFAULT 50 CHECK (film_um >= 0);
UPDATE resins SET
    cured_g_per_ml = round(density_g_per_ml * 1.06, 2),
    film_um = CASE viscosity WHEN 'thin' THEN 30 WHEN 'thick' THEN 80 ELSE 50 END,
    assumed = CASE assumed WHEN '' THEN 'cured_g_per_ml,film_mm' ELSE assumed || ',cured_g_per_ml,film_mm' END;
ALTER TABLE plates ADD COLUMN part_ml REAL NOT NULL DEFAULT 0;
ALTER TABLE plates ADD COLUMN support_ml REAL NOT NULL DEFAULT 0;
ALTER TABLE plates ADD COLUMN film_ml REAL NOT NULL DEFAULT 0;
ALTER TABLE plates ADD COLUMN weighed_times REAL NOT NULL DEFAULT 1 CHECK (weighed_times > 0);
UPDATE workshop SET waste_share = 0.02 WHERE ',' || assumed || ',' LIKE '%,waste_share,%';
UPDATE workshop SET assumed = CASE assumed WHEN '' THEN 'waste_share' ELSE assumed || ',waste_share' END
    WHERE ',' || assumed || ',' NOT LIKE '%,waste_share,%';
