-- Figures the shop keeps: what was brought as a drawing, under a name, with a small picture of it (the paths of its
-- outlines, and of its lines that do not close).
CREATE TABLE kept_figure (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    name_key TEXT NOT NULL,
    svg TEXT NOT NULL,
    width_mm REAL NOT NULL CHECK (width_mm > 0),
    height_mm REAL NOT NULL CHECK (height_mm > 0),
    picture TEXT NOT NULL CHECK (json_valid(picture)),
    retired_at TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE UNIQUE INDEX kept_figure_name ON kept_figure (name_key) WHERE retired_at IS NULL;
