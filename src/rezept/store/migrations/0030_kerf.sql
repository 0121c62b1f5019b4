-- How wide the cut of a recipe is, where somebody measured or felt it; and the trial that finds it.
ALTER TABLE recipe ADD COLUMN kerf_mm REAL CHECK (kerf_mm > 0);
ALTER TABLE trial ADD COLUMN kerf_of_recipe INTEGER REFERENCES recipe (id);
