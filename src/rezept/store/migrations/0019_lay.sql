-- How the piece lay, what was below it, and of a roller how thick the piece on it is; empty: nobody has said.
ALTER TABLE burn ADD COLUMN lay TEXT NOT NULL DEFAULT '' CHECK (lay IN ('', 'flat', 'roller', 'through'));
ALTER TABLE burn ADD COLUMN roller_mm REAL;
ALTER TABLE burn ADD COLUMN below TEXT NOT NULL DEFAULT '';
