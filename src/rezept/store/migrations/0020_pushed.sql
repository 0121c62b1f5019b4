-- Whether parts had been pushed out before a photo was taken: then what is missing says nothing. NULL: nobody has said.
ALTER TABLE plate_photo ADD COLUMN pushed INTEGER CHECK (pushed IN (0, 1));
-- What was brought in until now counts as it did.
UPDATE plate_photo SET pushed = 0;
