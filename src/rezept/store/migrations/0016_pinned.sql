-- One line of a recipe that has to be read before it is burned, and up to where it is good enough.
ALTER TABLE recipe ADD COLUMN pinned TEXT NOT NULL DEFAULT '';
ALTER TABLE recipe ADD COLUMN good_enough TEXT NOT NULL DEFAULT '';
