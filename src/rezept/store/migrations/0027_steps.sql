-- Which steps a frozen plate has: what is done in each, under which of them its outcome is read (those that work the same
-- ground are read as one, the last of them), and whether it works its ground alone, so that it can be held against others.
CREATE TABLE revision_step (
    revision_id INTEGER NOT NULL REFERENCES revision (id),
    step INTEGER NOT NULL CHECK (step >= 1),
    process TEXT NOT NULL,
    read_as INTEGER NOT NULL CHECK (read_as >= step),
    alone INTEGER NOT NULL CHECK (alone IN (0, 1)),
    PRIMARY KEY (revision_id, step)
) STRICT, WITHOUT ROWID;
INSERT INTO revision_step (revision_id, step, process, read_as, alone)
SELECT revision.id, 1, trial.process, 1, 1
FROM revision JOIN trial ON trial.id = revision.trial_id WHERE revision.plate IS NOT NULL;
-- By which of them a patch speaks for a recipe, or failed.
ALTER TABLE evidence ADD COLUMN step INTEGER NOT NULL DEFAULT 1 CHECK (step >= 1);
ALTER TABLE failed_setting ADD COLUMN step INTEGER NOT NULL DEFAULT 1 CHECK (step >= 1);
-- How often the steps of a recipe are repeated, and how each goes over its figure where that is not as usual: part, hatch
-- sets, one way.
ALTER TABLE recipe ADD COLUMN rounds INTEGER NOT NULL DEFAULT 1 CHECK (rounds >= 1);
ALTER TABLE recipe_step ADD COLUMN way TEXT NOT NULL DEFAULT '{}';
-- What a photo shows of a patch, step by step: what is read together stands under the last step of it.
CREATE TABLE patch_figures_now (
    photo_id INTEGER NOT NULL REFERENCES plate_photo (id) ON DELETE CASCADE,
    patch TEXT NOT NULL,
    step INTEGER NOT NULL CHECK (step >= 1),
    ratio REAL,
    lightness REAL,
    a REAL,
    b REAL,
    lightness_unsure REAL,
    contrast REAL,
    evenness REAL,
    banding REAL,
    open REAL,
    open_outline REAL,
    outline_unsure REAL,
    bridge_mm REAL,
    kerf_mm REAL,
    halo_mm REAL,
    soot REAL,
    edge_mm REAL,
    flags TEXT NOT NULL CHECK (json_valid(flags)),
    PRIMARY KEY (photo_id, step, patch)
) STRICT, WITHOUT ROWID;
INSERT INTO patch_figures_now (photo_id, patch, step, ratio, lightness, a, b, lightness_unsure, contrast, evenness, banding,
                               open, open_outline, outline_unsure, bridge_mm, kerf_mm, halo_mm, soot, edge_mm, flags)
SELECT photo_id, patch, 1, ratio, lightness, a, b, lightness_unsure, contrast, evenness, banding,
       open, open_outline, outline_unsure, bridge_mm, kerf_mm, halo_mm, soot, edge_mm, flags
FROM patch_figures;
DROP TABLE patch_figures;
ALTER TABLE patch_figures_now RENAME TO patch_figures;
