-- A file that a machine burns without anybody hearing of it: what burns is told by the planned order and time.
ALTER TABLE burn_run ADD COLUMN by_clock INTEGER NOT NULL DEFAULT 0 CHECK (by_clock IN (0, 1));
ALTER TABLE remark ADD COLUMN by_clock INTEGER NOT NULL DEFAULT 0 CHECK (by_clock IN (0, 1));

-- What somebody said of such a run meanwhile; `moment` in seconds since 1970, UTC.
CREATE TABLE clock_event (
    id INTEGER PRIMARY KEY,
    run_id INTEGER NOT NULL REFERENCES burn_run (id),
    what TEXT NOT NULL CHECK (what IN ('begin', 'pause', 'go_on', 'shift', 'at', 'turned')),
    by_s REAL NOT NULL DEFAULT 0,
    part TEXT NOT NULL DEFAULT '',
    moment REAL NOT NULL,
    by_member INTEGER NOT NULL REFERENCES member (id)
) STRICT;
CREATE INDEX clock_event_of_run ON clock_event (run_id);
