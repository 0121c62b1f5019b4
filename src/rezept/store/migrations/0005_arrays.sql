-- Arrays without machine and material, kept under a name.
CREATE TABLE kept_array (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    process TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    retired_at TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE UNIQUE INDEX kept_array_name ON kept_array (name) WHERE retired_at IS NULL;
