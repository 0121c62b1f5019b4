-- What is read of an element's step on a face stands value by value, on the scales of core/scales.py; whose word counts
-- is for core/reading.py to say. `reading` is what a person stated, with its note and its counter of edits; a cleared
-- one keeps its row.
CREATE TABLE reading_value (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
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
    PRIMARY KEY (burn_id, element, step, face, scale, said_by),
    CHECK ((by_member IS NULL) = (said_by = 'photo'))
) STRICT, WITHOUT ROWID;
CREATE INDEX reading_value_by_scale ON reading_value (scale, burn_id);
INSERT INTO reading_value (burn_id, element, step, face, scale, said_by, value, by_member, at)
    SELECT burn_id, patch, 1, face, scale, 'person', value, by_member, at
    FROM (
        SELECT burn_id, patch, face, 'through' AS scale, through AS value, by_member, at FROM reading
        UNION ALL SELECT burn_id, patch, face, 'darkness', darkness, by_member, at FROM reading
        UNION ALL SELECT burn_id, patch, face, 'evenness', evenness, by_member, at FROM reading
        UNION ALL SELECT burn_id, patch, face, 'char', char, by_member, at FROM reading
        UNION ALL SELECT burn_id, patch, face, 'soot', soot, by_member, at FROM reading
        UNION ALL SELECT burn_id, patch, face, 'kerf_mm', kerf_mm, by_member, at FROM reading
        UNION ALL SELECT burn_id, patch, face, 'depth_mm', depth_mm, by_member, at FROM reading
        UNION ALL
        SELECT reading.burn_id, reading.patch, reading.face, tag.value, 1, reading.by_member, reading.at
        FROM reading, json_each(reading.tags) AS tag
    )
    WHERE value IS NOT NULL;
INSERT INTO reading_value (burn_id, element, step, face, scale, said_by, value, sure, at)
    SELECT burn_id, patch, 1, face, scale, 'photo', value, confidence, at
    FROM (
        SELECT burn_id, patch, face, 'through' AS scale, through AS value, confidence, at FROM photo_score
        UNION ALL SELECT burn_id, patch, face, 'darkness', darkness, confidence, at FROM photo_score
        UNION ALL SELECT burn_id, patch, face, 'evenness', evenness, confidence, at FROM photo_score
        UNION ALL SELECT burn_id, patch, face, 'char', char, confidence, at FROM photo_score
        UNION ALL SELECT burn_id, patch, face, 'soot', soot, confidence, at FROM photo_score
    )
    WHERE value IS NOT NULL;
DROP VIEW reading_now;
CREATE TABLE reading_stated (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    element TEXT NOT NULL,
    step INTEGER NOT NULL CHECK (step >= 1),
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    cannot_tell INTEGER NOT NULL DEFAULT 0 CHECK (cannot_tell IN (0, 1)),
    note TEXT NOT NULL,
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, element, step, face)
) STRICT, WITHOUT ROWID;
INSERT INTO reading_stated (burn_id, element, step, face, cannot_tell, note, edit, by_member, at)
    SELECT burn_id, patch, 1, face, cannot_tell, note, edit, by_member, at FROM reading;
DROP TABLE reading;
ALTER TABLE reading_stated RENAME TO reading;
DROP TABLE photo_score;
