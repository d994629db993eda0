-- What is done to voices before they are mixed: of a lane, and of a clip that has its own.

ALTER TABLE lane ADD COLUMN care TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(care));
ALTER TABLE clip ADD COLUMN care TEXT CHECK (care IS NULL OR json_valid(care));
