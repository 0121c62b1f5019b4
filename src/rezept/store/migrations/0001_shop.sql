-- Times are UTC, ISO 8601 with seconds. `edit` counts the changes of a row, starting at 1.

CREATE TABLE shop (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    name TEXT NOT NULL,
    tag TEXT NOT NULL CHECK (length(tag) = 4),
    demo INTEGER NOT NULL CHECK (demo IN (0, 1)),
    at TEXT NOT NULL
) STRICT;

CREATE TABLE member (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    role TEXT NOT NULL CHECK (role IN ('guest', 'member', 'technician', 'keeper')),
    edit INTEGER NOT NULL DEFAULT 1,
    at TEXT NOT NULL
) STRICT;

-- `facts` is the machine's object of a trial file, without its head.
CREATE TABLE machine (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    facts TEXT NOT NULL CHECK (json_valid(facts)),
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;

CREATE TABLE head (
    id INTEGER PRIMARY KEY,
    machine_id INTEGER NOT NULL REFERENCES machine (id),
    name TEXT NOT NULL,
    facts TEXT NOT NULL CHECK (json_valid(facts)),
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    UNIQUE (machine_id, name)
) STRICT;

-- `processes` lists what the material is meant for, as a JSON list of process keys.
CREATE TABLE material (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    family TEXT NOT NULL,
    thickness_mm REAL,
    mark TEXT NOT NULL CHECK (mark IN ('darker', 'lighter')),
    hazards TEXT NOT NULL CHECK (json_valid(hazards)),
    ground_lab TEXT CHECK (ground_lab IS NULL OR json_valid(ground_lab)),
    processes TEXT NOT NULL CHECK (json_valid(processes)),
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE UNIQUE INDEX material_once ON material (name, coalesce(thickness_mm, 0));

CREATE TABLE lot (
    id INTEGER PRIMARY KEY,
    material_id INTEGER NOT NULL REFERENCES material (id),
    name TEXT NOT NULL,
    measured_mm REAL CHECK (measured_mm IS NULL OR measured_mm > 0),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    UNIQUE (material_id, name)
) STRICT;

CREATE TABLE trial (
    id INTEGER PRIMARY KEY,
    number INTEGER NOT NULL UNIQUE,
    process TEXT NOT NULL,
    head_id INTEGER NOT NULL REFERENCES head (id),
    material_id INTEGER NOT NULL REFERENCES material (id),
    reason TEXT NOT NULL,
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    changed_by INTEGER NOT NULL REFERENCES member (id),
    changed_at TEXT NOT NULL
) STRICT;

-- A draft (frozen_at NULL) holds the design without machine and material; a frozen revision holds its plate,
-- as it was exported or burned, and never changes again.
CREATE TABLE revision (
    id INTEGER PRIMARY KEY,
    trial_id INTEGER NOT NULL REFERENCES trial (id),
    number INTEGER NOT NULL CHECK (number >= 1),
    design TEXT NOT NULL CHECK (json_valid(design)),
    plate TEXT CHECK (plate IS NULL OR json_valid(plate)),
    frozen_at TEXT,
    frozen_by INTEGER REFERENCES member (id),
    UNIQUE (trial_id, number),
    CHECK ((frozen_at IS NULL) = (plate IS NULL))
) STRICT;

CREATE TRIGGER revision_stays BEFORE UPDATE ON revision WHEN old.frozen_at IS NOT NULL
BEGIN SELECT RAISE(ABORT, 'a frozen revision never changes'); END;

CREATE TABLE burn (
    id INTEGER PRIMARY KEY,
    revision_id INTEGER NOT NULL REFERENCES revision (id),
    lot_id INTEGER REFERENCES lot (id),
    measured_mm REAL CHECK (measured_mm IS NULL OR measured_mm > 0),
    focus TEXT NOT NULL,
    air TEXT NOT NULL,
    note TEXT NOT NULL,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX burn_of_revision ON burn (revision_id);

CREATE TABLE not_burned (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    patch TEXT NOT NULL,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, patch)
) STRICT;

-- A cleared reading keeps its row, so that its edit goes on counting.
CREATE TABLE reading (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    patch TEXT NOT NULL,
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    through INTEGER CHECK (through BETWEEN 0 AND 3),
    darkness INTEGER CHECK (darkness BETWEEN 0 AND 5),
    evenness INTEGER CHECK (evenness BETWEEN 0 AND 3),
    char INTEGER CHECK (char BETWEEN 0 AND 3),
    soot INTEGER CHECK (soot BETWEEN 0 AND 3),
    cannot_tell INTEGER NOT NULL DEFAULT 0 CHECK (cannot_tell IN (0, 1)),
    tags TEXT NOT NULL CHECK (json_valid(tags)),
    note TEXT NOT NULL,
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, patch, face)
) STRICT;

CREATE TABLE photo (
    sha256 TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    media_type TEXT NOT NULL CHECK (media_type IN ('image/jpeg', 'image/png')),
    bytes INTEGER NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;

CREATE TABLE face_photo (
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    face TEXT NOT NULL CHECK (face IN ('front', 'back')),
    sha256 TEXT NOT NULL REFERENCES photo (sha256),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (burn_id, face)
) STRICT;

CREATE TABLE recipe (
    id INTEGER PRIMARY KEY,
    head_id INTEGER NOT NULL REFERENCES head (id),
    material_id INTEGER NOT NULL REFERENCES material (id),
    process TEXT NOT NULL,
    purpose TEXT NOT NULL,
    standing TEXT NOT NULL CHECK (standing IN ('estimate', 'heard', 'tried', 'proven', 'doubtful', 'retired')),
    note TEXT NOT NULL,
    burn_id INTEGER REFERENCES burn (id),
    patch TEXT,
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    changed_by INTEGER NOT NULL REFERENCES member (id),
    changed_at TEXT NOT NULL,
    CHECK ((burn_id IS NULL) = (patch IS NULL))
) STRICT;
CREATE INDEX recipe_for ON recipe (material_id, head_id, process);

CREATE TABLE recipe_step (
    recipe_id INTEGER NOT NULL REFERENCES recipe (id),
    position INTEGER NOT NULL CHECK (position >= 1),
    name TEXT NOT NULL,
    process TEXT NOT NULL,
    settings TEXT NOT NULL CHECK (json_valid(settings)),
    PRIMARY KEY (recipe_id, position)
) STRICT;

-- One row for each edit of a recipe, as it was after that edit.
CREATE TABLE recipe_history (
    recipe_id INTEGER NOT NULL REFERENCES recipe (id),
    edit INTEGER NOT NULL,
    recipe TEXT NOT NULL CHECK (json_valid(recipe)),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (recipe_id, edit)
) STRICT;
