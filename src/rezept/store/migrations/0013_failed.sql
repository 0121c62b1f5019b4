-- What was burned and came to nothing, kept as such: it answers no question, so it is no recipe.
CREATE TABLE failed_setting (
    id INTEGER PRIMARY KEY,
    head_id INTEGER NOT NULL REFERENCES head (id),
    material_id INTEGER NOT NULL REFERENCES material (id),
    process TEXT NOT NULL,
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    patch TEXT NOT NULL,
    settings TEXT NOT NULL CHECK (json_valid(settings)),
    note TEXT NOT NULL,
    taken_back_at TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX failed_setting_of_material ON failed_setting (material_id, taken_back_at);
CREATE UNIQUE INDEX failed_setting_of_patch ON failed_setting (burn_id, patch) WHERE taken_back_at IS NULL;

-- Why it did not hold, as it was said in one tap; NULL where nobody was asked.
ALTER TABLE confirmation ADD COLUMN reason TEXT;

-- Figures of a machine or head nobody has looked up yet: what such machines usually have.
ALTER TABLE machine ADD COLUMN assumed TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(assumed));
ALTER TABLE head ADD COLUMN assumed TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(assumed));

-- What people call a trial, and since when it is put away.
ALTER TABLE trial ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE trial ADD COLUMN put_away_at TEXT;
