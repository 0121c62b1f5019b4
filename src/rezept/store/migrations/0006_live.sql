-- Burning live: where a machine listens, and what really happened to each part of a plate.

-- Where the machine's controller is reached, as a pySerial URL; empty: files only.
ALTER TABLE machine ADD COLUMN link TEXT NOT NULL DEFAULT '';
ALTER TABLE burn ADD COLUMN cleaning TEXT NOT NULL DEFAULT '';
ALTER TABLE burn ADD COLUMN hold_down TEXT NOT NULL DEFAULT '';

-- One time the machine worked on a plate: the whole of it, the rest after an interruption, or some of it again in
-- place. A burn logged by hand has none.
CREATE TABLE burn_run (
    id INTEGER PRIMARY KEY,
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    kind TEXT NOT NULL CHECK (kind IN ('whole', 'rest', 'again')),
    via TEXT NOT NULL CHECK (via IN ('link', 'hand')),
    state TEXT NOT NULL CHECK (state IN ('running', 'done', 'stopped', 'interrupted')),
    reason TEXT NOT NULL DEFAULT '',
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    ended_at TEXT
) STRICT;
CREATE INDEX run_of_burn ON burn_run (burn_id);

-- waiting: not sent. burning: sent, its end not acknowledged. done: acknowledged. uncertain: the run ended while it
-- was burning. bare: somebody saw that an uncertain one was not burned.
-- `power` and `speed` are what corrections made of the program's figures, `focus_mm` what they added.
CREATE TABLE run_part (
    run_id INTEGER NOT NULL REFERENCES burn_run (id),
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('labels', 'patch', 'outline')),
    state TEXT NOT NULL CHECK (state IN ('waiting', 'burning', 'done', 'uncertain', 'bare')),
    passes INTEGER NOT NULL,
    power REAL NOT NULL DEFAULT 1,
    speed REAL NOT NULL DEFAULT 1,
    focus_mm REAL NOT NULL DEFAULT 0,
    mixed INTEGER NOT NULL DEFAULT 0 CHECK (mixed IN (0, 1)),
    at TEXT,
    PRIMARY KEY (run_id, position)
) STRICT;

-- What somebody saw while it burned, or did to it.
CREATE TABLE remark (
    id INTEGER PRIMARY KEY,
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    patch TEXT,
    kind TEXT NOT NULL,
    note TEXT NOT NULL,
    taken_back_at TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX remark_of_burn ON remark (burn_id);
