-- What was burned stays what it was: how everything of a frozen plate is drawn, and the files that were handed out.

-- Beside the plate's document, which never changes: its keys `planned_by`, `figures` and `drawn`, as JSON compressed
-- by zlib. A revision frozen before this table has them, and other keys its document lacks, from the planner of the
-- update that made it; one that could not be planned again to the same places has none.
CREATE TABLE revision_ways (
    revision_id INTEGER PRIMARY KEY REFERENCES revision (id),
    ways BLOB NOT NULL
) STRICT;

CREATE TRIGGER ways_stay BEFORE UPDATE ON revision_ways
BEGIN SELECT RAISE(ABORT, 'a frozen revision never changes'); END;

-- The files of a frozen revision as they were first fetched, compressed by zlib.
CREATE TABLE kept_file (
    revision_id INTEGER NOT NULL REFERENCES revision (id),
    kind TEXT NOT NULL,
    part INTEGER NOT NULL CHECK (part >= 1),
    parts INTEGER NOT NULL CHECK (parts >= part),
    bytes BLOB NOT NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (revision_id, kind, part)
) STRICT;

CREATE TRIGGER files_stay BEFORE UPDATE ON kept_file
BEGIN SELECT RAISE(ABORT, 'a file that was handed out never changes'); END;

-- A machine says from now on whether its beam may burn while the head stands; those that are there burned so.
UPDATE machine SET facts = json_set(facts, '$.dwells_with_beam', json('true'));

-- The file beside the records in which a run is kept while it burns; empty for those that were logged by hand.
ALTER TABLE burn_run ADD COLUMN log TEXT NOT NULL DEFAULT '';

-- What was said of a run while it went on: who started it, held it, turned what.
CREATE TABLE run_line (
    run_id INTEGER NOT NULL REFERENCES burn_run (id),
    number INTEGER NOT NULL,
    sentence TEXT NOT NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (run_id, number)
) STRICT;

-- "I burned it" can be put right, or taken back while nothing was kept from it; its readings then say so, or rest.
ALTER TABLE burn ADD COLUMN corrected_by INTEGER REFERENCES member (id);
ALTER TABLE burn ADD COLUMN corrected_at TEXT;
ALTER TABLE burn ADD COLUMN taken_back_by INTEGER REFERENCES member (id);
ALTER TABLE burn ADD COLUMN taken_back_at TEXT;
