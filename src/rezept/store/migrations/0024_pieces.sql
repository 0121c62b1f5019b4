-- Pieces of any shape: `outline` holds the corners of one that is no rectangle or disc (its `shape` here is then that of
-- the box around it), `holes` x, y and diameter of each; `count`: so many alike, each burned once.
ALTER TABLE piece ADD COLUMN outline TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(outline));
ALTER TABLE piece ADD COLUMN holes TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(holes));
ALTER TABLE piece ADD COLUMN count INTEGER NOT NULL DEFAULT 1 CHECK (count >= 1);
