-- How far the top of a piece lies above the bed, whether it is level, and by how much it varies where it is not.
ALTER TABLE piece ADD COLUMN rise_mm REAL CHECK (rise_mm >= 0);
ALTER TABLE piece ADD COLUMN top TEXT NOT NULL DEFAULT 'level';
ALTER TABLE piece ADD COLUMN top_varies_mm REAL CHECK (top_varies_mm > 0);
