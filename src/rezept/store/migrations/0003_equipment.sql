-- Equipment is edited in place and retired instead of deleted. What it was before stands in `change`.

ALTER TABLE machine ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE machine ADD COLUMN retired_at TEXT;
ALTER TABLE head ADD COLUMN retired_at TEXT;
ALTER TABLE material ADD COLUMN density_kg_m3 REAL CHECK (density_kg_m3 IS NULL OR density_kg_m3 > 0);
ALTER TABLE material ADD COLUMN hardness INTEGER CHECK (hardness IS NULL OR hardness BETWEEN 1 AND 5);
ALTER TABLE material ADD COLUMN supplier_code TEXT NOT NULL DEFAULT '';
ALTER TABLE material ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE material ADD COLUMN retired_at TEXT;
ALTER TABLE lot ADD COLUMN supplier_code TEXT NOT NULL DEFAULT '';
ALTER TABLE lot ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE lot ADD COLUMN edit INTEGER NOT NULL DEFAULT 1;
ALTER TABLE lot ADD COLUMN retired_at TEXT;

CREATE TABLE piece (
    id INTEGER PRIMARY KEY,
    material_id INTEGER NOT NULL REFERENCES material (id),
    lot_id INTEGER REFERENCES lot (id),
    name TEXT NOT NULL,
    shape TEXT NOT NULL CHECK (shape IN ('rectangle', 'disc')),
    width_mm REAL NOT NULL CHECK (width_mm > 0),
    height_mm REAL NOT NULL CHECK (height_mm > 0),
    margin_mm REAL NOT NULL CHECK (margin_mm >= 0),
    note TEXT NOT NULL,
    edit INTEGER NOT NULL DEFAULT 1,
    retired_at TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    UNIQUE (material_id, name)
) STRICT;
