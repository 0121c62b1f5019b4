-- What else is known of a material, in words, by key of core/sheet_facts.py.
ALTER TABLE material ADD COLUMN facts TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(facts));
