-- Work that goes through the one worker: photographs read, pictures made. What it was asked is `task`; `answer` is what
-- came of it. One that ran when the server ended is interrupted, and nothing begins it again by itself.
CREATE TABLE job (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    kind TEXT NOT NULL,
    task TEXT NOT NULL CHECK (json_valid(task)),
    urgent INTEGER NOT NULL CHECK (urgent IN (0, 1)),
    state TEXT NOT NULL DEFAULT 'waiting'
        CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled', 'interrupted')),
    progress REAL NOT NULL DEFAULT 0,
    sentence TEXT NOT NULL DEFAULT '',
    answer TEXT CHECK (answer IS NULL OR json_valid(answer)),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    ended_at TEXT
) STRICT;
CREATE INDEX job_to_do ON job (state, urgent, id);
