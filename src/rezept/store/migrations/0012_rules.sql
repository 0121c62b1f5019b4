-- By which rule a photo was read: the day from which it holds (RULE in core/reading.py); '' is before there were any.
ALTER TABLE plate_photo ADD COLUMN rule TEXT NOT NULL DEFAULT '';
