-- The part in the hand: photos of its edge, by the patch it was cut as. Nothing is read of them but by eye. A removed one
-- keeps its row, so that it can be brought back.
CREATE TABLE part_photo (
    id INTEGER PRIMARY KEY,
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    element TEXT NOT NULL,
    sha256 TEXT NOT NULL REFERENCES photo (sha256),
    removed INTEGER NOT NULL DEFAULT 0 CHECK (removed IN (0, 1)),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    UNIQUE (burn_id, element, sha256)
) STRICT;
CREATE INDEX part_photo_of_burn ON part_photo (burn_id);
