-- How a piece lay that was burned again: where it lay, or put back there; doubtful: so that nobody can say what its
-- patches got. What was asked for otherwise than planned stands in read_off.
ALTER TABLE burn_run ADD COLUMN put_back TEXT NOT NULL DEFAULT 'still' CHECK (put_back IN ('still', 'stop', 'marks'));
ALTER TABLE burn_run ADD COLUMN doubtful INTEGER NOT NULL DEFAULT 0 CHECK (doubtful IN (0, 1));
