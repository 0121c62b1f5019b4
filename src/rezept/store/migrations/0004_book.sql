-- What the book says of a recipe beside its settings, how often it held, and finding it by its words.

ALTER TABLE recipe ADD COLUMN conditions TEXT NOT NULL DEFAULT '';
ALTER TABLE recipe ADD COLUMN supplier_code TEXT NOT NULL DEFAULT '';
ALTER TABLE recipe ADD COLUMN links TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(links));
ALTER TABLE recipe ADD COLUMN superseded_by INTEGER REFERENCES recipe (id);
-- Best standing first; what something else has taken the place of comes last.
ALTER TABLE recipe ADD COLUMN rank INTEGER GENERATED ALWAYS AS (
    CASE WHEN superseded_by IS NOT NULL THEN 6 ELSE
        CASE standing WHEN 'proven' THEN 0 WHEN 'tried' THEN 1 WHEN 'heard' THEN 2 WHEN 'estimate' THEN 3
                      WHEN 'doubtful' THEN 4 ELSE 5 END END) VIRTUAL;
CREATE INDEX recipe_best ON recipe (rank, changed_at DESC, id DESC);
CREATE INDEX recipe_map ON recipe (process, material_id, head_id);
CREATE INDEX recipe_of_burn ON recipe (burn_id);

-- One tap: it held, or it did not. Where a standing rule changed the standing with it: what it was before, and the
-- recipe's edit after that.
CREATE TABLE confirmation (
    id INTEGER PRIMARY KEY,
    recipe_id INTEGER NOT NULL REFERENCES recipe (id),
    held INTEGER NOT NULL CHECK (held IN (0, 1)),
    note TEXT NOT NULL,
    standing_before TEXT,
    edit_after INTEGER,
    taken_back_at TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX confirmation_of_recipe ON confirmation (recipe_id, taken_back_at);

-- What the shop has found out not to work at all, so that the map does not call it a gap.
CREATE TABLE does_not_work (
    material_id INTEGER NOT NULL REFERENCES material (id),
    head_id INTEGER NOT NULL REFERENCES head (id),
    process TEXT NOT NULL,
    reason TEXT NOT NULL,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    PRIMARY KEY (material_id, head_id, process)
) STRICT;

-- The words of every recipe; rowid is the recipe's id. Words come folded and parted by `core.slips`.
CREATE VIRTUAL TABLE recipe_text USING fts5 (words, prefix = '2 3', tokenize = "unicode61 tokenchars '.'");
-- Every word of the book, and under each of its slips (one letter left out of one of its beginnings) the word.
CREATE TABLE search_word (word TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;
CREATE TABLE word_slip (
    slip TEXT NOT NULL,
    word TEXT NOT NULL REFERENCES search_word (word),
    PRIMARY KEY (slip, word)
) STRICT, WITHOUT ROWID;
