-- What was done to a piece before it was looked at: each reading and photo says which. `burn.treatment` is the one a
-- burn is judged by, `recipe.treatment` the one a recipe was kept by.
ALTER TABLE burn ADD COLUMN treatment TEXT NOT NULL DEFAULT 'burned'
    CHECK (treatment IN ('burned', 'wiped', 'sanded', 'rubbed'));
ALTER TABLE recipe ADD COLUMN treatment TEXT NOT NULL DEFAULT 'burned'
    CHECK (treatment IN ('burned', 'wiped', 'sanded', 'rubbed'));
ALTER TABLE plate_photo ADD COLUMN treatment TEXT NOT NULL DEFAULT 'burned'
    CHECK (treatment IN ('burned', 'wiped', 'sanded', 'rubbed'));
UPDATE plate_photo SET treatment = 'wiped' WHERE cleaned;
ALTER TABLE plate_photo DROP COLUMN cleaned;
CREATE TABLE reading_treated (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    treatment TEXT NOT NULL CHECK (treatment IN ('burned', 'wiped', 'sanded', 'rubbed')),
    element TEXT NOT NULL,
    step INTEGER NOT NULL CHECK (step >= 1),
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    cannot_tell INTEGER NOT NULL DEFAULT 0 CHECK (cannot_tell IN (0, 1)),
    note TEXT NOT NULL,
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, treatment, element, step, face)
) STRICT, WITHOUT ROWID;
INSERT INTO reading_treated (burn_id, treatment, element, step, face, cannot_tell, note, edit, by_member, at)
    SELECT burn_id, 'burned', element, step, face, cannot_tell, note, edit, by_member, at FROM reading;
DROP TABLE reading;
ALTER TABLE reading_treated RENAME TO reading;
CREATE TABLE reading_value_treated (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    treatment TEXT NOT NULL CHECK (treatment IN ('burned', 'wiped', 'sanded', 'rubbed')),
    element TEXT NOT NULL,
    step INTEGER NOT NULL CHECK (step >= 1),
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    scale TEXT NOT NULL,
    said_by TEXT NOT NULL CHECK (said_by IN ('person', 'photo')),
    value REAL NOT NULL,
    by_member INTEGER REFERENCES member (id),
    -- How sure the photographs are of the outcome, 0 to 1.
    sure REAL CHECK (sure BETWEEN 0 AND 1),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, treatment, element, step, face, scale, said_by),
    CHECK ((by_member IS NULL) = (said_by = 'photo'))
) STRICT, WITHOUT ROWID;
INSERT INTO reading_value_treated
    (burn_id, treatment, element, step, face, scale, said_by, value, by_member, sure, at)
    SELECT burn_id, 'burned', element, step, face, scale, said_by, value, by_member, sure, at FROM reading_value;
DROP TABLE reading_value;
ALTER TABLE reading_value_treated RENAME TO reading_value;
CREATE INDEX reading_value_by_scale ON reading_value (scale, burn_id);
