-- Sign-in, sessions, and the log of who did what.

-- `secret` is a salted scrypt hash; NULL: this member cannot sign in yet.
ALTER TABLE member ADD COLUMN secret TEXT;
ALTER TABLE member ADD COLUMN retired_at TEXT;

-- Only the SHA-256 of a session's token is kept, so a copied database signs nobody in.
CREATE TABLE session (
    id INTEGER PRIMARY KEY,
    token_sha256 TEXT NOT NULL UNIQUE CHECK (length(token_sha256) = 64),
    member_id INTEGER NOT NULL REFERENCES member (id),
    device TEXT NOT NULL,
    started_at TEXT NOT NULL,
    seen_at TEXT NOT NULL,
    ended_at TEXT
) STRICT;
CREATE INDEX session_of_member ON session (member_id);

-- Failed sign-ins only; they are what attempts are limited by.
CREATE TABLE sign_in_failure (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    address TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX sign_in_failure_of_name ON sign_in_failure (name, at);
CREATE INDEX sign_in_failure_from ON sign_in_failure (address, at);

-- One row for everything somebody did. `title` is what the thing was called then; `before` and `after` are there
-- where the change can be taken back.
-- AUTOINCREMENT: those who follow the log ask for what came after an id, so no id comes twice.
CREATE TABLE change (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    subject TEXT NOT NULL,
    subject_id INTEGER NOT NULL,
    verb TEXT NOT NULL,
    title TEXT NOT NULL,
    before TEXT CHECK (before IS NULL OR json_valid(before)),
    after TEXT CHECK (after IS NULL OR json_valid(after)),
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX change_of_subject ON change (subject, subject_id, id);
