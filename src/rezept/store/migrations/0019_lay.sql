-- How the piece lay, what was below it, and of a roller how thick the piece on it is; where nobody says it, flat.
ALTER TABLE burn ADD COLUMN lay TEXT NOT NULL DEFAULT 'flat' CHECK (lay IN ('flat', 'roller', 'through'));
ALTER TABLE burn ADD COLUMN roller_mm REAL;
ALTER TABLE burn ADD COLUMN below TEXT NOT NULL DEFAULT '';
