-- Sheets burned in a stack, and by which tabs a part stayed in its sheet. A column's own CHECK cannot be changed, so `lay`
-- is another one from here on.
ALTER TABLE burn ADD COLUMN lay_of TEXT NOT NULL DEFAULT 'flat'
    CHECK (lay_of IN ('flat', 'roller', 'through', 'stacked'));
UPDATE burn SET lay_of = lay;
ALTER TABLE burn DROP COLUMN lay;
ALTER TABLE burn RENAME COLUMN lay_of TO lay;
ALTER TABLE burn ADD COLUMN stack_of INTEGER CHECK (stack_of >= 2);
ALTER TABLE burn ADD COLUMN tabs TEXT NOT NULL DEFAULT '';
