-- The door: names compared as they are read, delays after wrong tries, members who are gone for good, what the shop
-- is called from outside.

-- A name is free again once its member is removed, who is "somebody" then: the names that count are the keys.
-- `name_key` is filled in beyond this SQL.
CREATE TABLE member_new (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    name_key TEXT UNIQUE,
    role TEXT NOT NULL CHECK (role IN ('guest', 'member', 'technician', 'keeper')),
    secret TEXT,
    edit INTEGER NOT NULL DEFAULT 1,
    at TEXT NOT NULL,
    retired_at TEXT,
    removed_at TEXT CHECK (removed_at IS NULL OR (retired_at IS NOT NULL AND secret IS NULL AND name_key IS NULL))
) STRICT;
INSERT INTO member_new (id, name, role, secret, edit, at, retired_at)
SELECT id, name, role, secret, edit, at, retired_at FROM member;
DROP TABLE member;
ALTER TABLE member_new RENAME TO member;

-- `key` tells this shop from others on the same machine; `address` is where it is reached, for printed codes.
ALTER TABLE shop ADD COLUMN key TEXT NOT NULL DEFAULT '';
ALTER TABLE shop ADD COLUMN address TEXT;
UPDATE shop SET key = lower(hex(randomblob(6)));

-- Tries to sign in that did not succeed (yet), by name and address together. `last_s`: seconds since 1970.
DROP TABLE sign_in_failure;
CREATE TABLE sign_in_try (
    name_key TEXT NOT NULL,
    address TEXT NOT NULL,
    tries INTEGER NOT NULL CHECK (tries > 0),
    last_s REAL NOT NULL,
    PRIMARY KEY (name_key, address)
) STRICT;
