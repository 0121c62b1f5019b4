-- Photographs are read: several a face, how the plate lies in each, what every patch looks like there.

CREATE TABLE photo_file (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    media_type TEXT NOT NULL CHECK (media_type IN ('image/jpeg', 'image/png', 'image/webp', 'image/heic')),
    bytes INTEGER NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
INSERT INTO photo_file SELECT sha256, media_type, bytes, width, height, by_member, at FROM photo;

-- `matrix` takes the plate's mm (x, y, 1) to pixels of the upright photograph, `bow` bends them after that; both are
-- null while the plate has not been found, and `trouble` says why. `sheet_mm` are the corners of the sheet as seen.
-- `cleaned`: taken after the plate was wiped. Of a face's photographs that were found the one with the highest `picked`
-- is read by. A removed one keeps its row, so that it can be brought back.
CREATE TABLE plate_photo (
    id INTEGER PRIMARY KEY,
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    sha256 TEXT NOT NULL REFERENCES photo_file (sha256),
    cleaned INTEGER NOT NULL DEFAULT 0 CHECK (cleaned IN (0, 1)),
    found_by TEXT CHECK (found_by IN ('marks', 'outline', 'corners')),
    residual_mm REAL,
    matrix TEXT CHECK (matrix IS NULL OR json_valid(matrix)),
    bow REAL,
    sheet_mm TEXT CHECK (sheet_mm IS NULL OR json_valid(sheet_mm)),
    card INTEGER NOT NULL DEFAULT 0 CHECK (card IN (0, 1)),
    doubts TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(doubts)),
    trouble TEXT NOT NULL DEFAULT '',
    picked INTEGER NOT NULL DEFAULT 1,
    removed INTEGER NOT NULL DEFAULT 0 CHECK (removed IN (0, 1)),
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    UNIQUE (burn_id, face, sha256)
) STRICT;
CREATE INDEX photo_of_burn ON plate_photo (burn_id);
INSERT INTO plate_photo (burn_id, face, sha256, by_member, at)
    SELECT burn_id, face, sha256, by_member, at FROM face_photo;
DROP TABLE face_photo;
DROP TABLE photo;
ALTER TABLE photo_file RENAME TO photo;

-- What one photograph shows of each patch; the columns are those of the figures in docs/formats/readings.md.
CREATE TABLE patch_figures (
    photo_id INTEGER NOT NULL REFERENCES plate_photo (id) ON DELETE CASCADE,
    patch TEXT NOT NULL,
    ratio REAL,
    lightness REAL,
    a REAL,
    b REAL,
    lightness_unsure REAL,
    contrast REAL,
    evenness REAL,
    banding REAL,
    open REAL,
    open_outline REAL,
    outline_unsure REAL,
    bridge_mm REAL,
    kerf_mm REAL,
    halo_mm REAL,
    soot REAL,
    edge_mm REAL,
    flags TEXT NOT NULL CHECK (json_valid(flags)),
    PRIMARY KEY (photo_id, patch)
) STRICT, WITHOUT ROWID;

-- The scores that follow from the photographs of a burn's faces. `sure`: they count until a person says otherwise.
CREATE TABLE photo_score (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    patch TEXT NOT NULL,
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    through INTEGER,
    darkness INTEGER,
    evenness INTEGER,
    char INTEGER,
    soot INTEGER,
    confidence REAL,
    sure INTEGER NOT NULL CHECK (sure IN (0, 1)),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, patch, face)
) STRICT, WITHOUT ROWID;

-- What the callipers say.
ALTER TABLE reading ADD COLUMN kerf_mm REAL;
ALTER TABLE reading ADD COLUMN depth_mm REAL;

-- A patch as it counts now: what a person said of it, else what the photographs are sure of.
CREATE VIEW reading_now AS
WITH both AS (
    SELECT reading.*, photo_score.through AS seen_through, photo_score.darkness AS seen_darkness,
           photo_score.evenness AS seen_evenness, photo_score.char AS seen_char, photo_score.soot AS seen_soot,
           photo_score.patch IS NULL OR reading.through IS NOT NULL OR reading.darkness IS NOT NULL
               OR reading.cannot_tell AS own
    FROM reading
    LEFT JOIN photo_score ON photo_score.burn_id = reading.burn_id AND photo_score.patch = reading.patch
        AND photo_score.face = reading.face AND photo_score.sure
)
SELECT burn_id, patch, face, iif(own, through, seen_through) AS through, iif(own, darkness, seen_darkness) AS darkness,
       iif(own, evenness, coalesce(evenness, seen_evenness)) AS evenness,
       iif(own, char, coalesce(char, seen_char)) AS char, iif(own, soot, coalesce(soot, seen_soot)) AS soot,
       cannot_tell, tags, note, kerf_mm, depth_mm, edit, by_member, at, iif(own, 'person', 'photo') AS said_by
FROM both
UNION ALL
SELECT burn_id, patch, face, through, darkness, evenness, char, soot, 0, '[]', '', NULL, NULL, 0, NULL, at, 'photo'
FROM photo_score
WHERE sure AND NOT EXISTS (
    SELECT 1 FROM reading
    WHERE reading.burn_id = photo_score.burn_id AND reading.patch = photo_score.patch
        AND reading.face = photo_score.face
);
