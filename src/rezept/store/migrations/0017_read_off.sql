-- What somebody read off a dial, a valve or a scale while a part of a run burned, in the units used inside; NULL: it was
-- turned, and nobody knows how far. The latest line of a part and setting counts.
CREATE TABLE read_off (
    id INTEGER PRIMARY KEY,
    run_id INTEGER NOT NULL REFERENCES burn_run (id),
    part TEXT NOT NULL,
    key TEXT NOT NULL,
    value REAL,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX read_off_of_run ON read_off (run_id);
