-- What plates were found to mean, kept with what it rests on, so that it can be reckoned again and explained.
CREATE TABLE finding (
    id INTEGER PRIMARY KEY,
    material_id INTEGER NOT NULL REFERENCES material (id),
    head_id INTEGER NOT NULL REFERENCES head (id),
    process TEXT NOT NULL,
    -- What it was chosen for, and what somebody kept to.
    aim TEXT NOT NULL,
    wish TEXT NOT NULL CHECK (json_valid(wish)),
    settings TEXT NOT NULL CHECK (json_valid(settings)),
    predicted TEXT NOT NULL CHECK (json_valid(predicted)),
    model TEXT NOT NULL CHECK (json_valid(model)),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE TABLE finding_burn (
    finding_id INTEGER NOT NULL REFERENCES finding (id),
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    PRIMARY KEY (finding_id, burn_id)
) STRICT;
ALTER TABLE recipe ADD COLUMN finding_id INTEGER REFERENCES finding (id);
