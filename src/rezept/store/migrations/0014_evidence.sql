-- A recipe rests on evidence: on patches that were burned with its very settings, on whole plates, or on none.

CREATE TABLE evidence (
    id INTEGER PRIMARY KEY,
    recipe_id INTEGER NOT NULL REFERENCES recipe (id),
    burn_id INTEGER NOT NULL REFERENCES burn (id),
    -- NULL: the plate as a whole says so, and no patch of it got these settings.
    patch TEXT,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX evidence_of_recipe ON evidence (recipe_id, patch, id);
CREATE INDEX evidence_of_burn ON evidence (burn_id);
INSERT INTO evidence (recipe_id, burn_id, patch, by_member, at)
    SELECT id, burn_id, patch, by_member, at FROM recipe WHERE burn_id IS NOT NULL ORDER BY id;

-- The recipe without the one patch it had to be; what was a column of it stands above.
CREATE TABLE recipe_now (
    id INTEGER PRIMARY KEY,
    head_id INTEGER NOT NULL REFERENCES head (id),
    material_id INTEGER NOT NULL REFERENCES material (id),
    process TEXT NOT NULL,
    purpose TEXT NOT NULL,
    standing TEXT NOT NULL CHECK (standing IN ('estimate', 'heard', 'tried', 'proven', 'doubtful', 'retired')),
    note TEXT NOT NULL,
    conditions TEXT NOT NULL DEFAULT '',
    supplier_code TEXT NOT NULL DEFAULT '',
    links TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(links)),
    superseded_by INTEGER REFERENCES recipe (id),
    edit INTEGER NOT NULL DEFAULT 1,
    by_member INTEGER NOT NULL REFERENCES member (id),
    at TEXT NOT NULL,
    changed_by INTEGER NOT NULL REFERENCES member (id),
    changed_at TEXT NOT NULL,
    rank INTEGER GENERATED ALWAYS AS (
        CASE WHEN superseded_by IS NOT NULL THEN 6 ELSE
            CASE standing WHEN 'proven' THEN 0 WHEN 'tried' THEN 1 WHEN 'heard' THEN 2 WHEN 'estimate' THEN 3
                          WHEN 'doubtful' THEN 4 ELSE 5 END END) VIRTUAL
) STRICT;
INSERT INTO recipe_now (id, head_id, material_id, process, purpose, standing, note, conditions, supplier_code, links,
                        superseded_by, edit, by_member, at, changed_by, changed_at)
    SELECT id, head_id, material_id, process, purpose, standing, note, conditions, supplier_code, links,
           superseded_by, edit, by_member, at, changed_by, changed_at FROM recipe;
DROP TABLE recipe;
ALTER TABLE recipe_now RENAME TO recipe;
CREATE INDEX recipe_for ON recipe (material_id, head_id, process);
CREATE INDEX recipe_best ON recipe (rank, changed_at DESC, id DESC);
CREATE INDEX recipe_map ON recipe (process, material_id, head_id);
