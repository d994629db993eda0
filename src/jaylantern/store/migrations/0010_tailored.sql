-- Tailored music is a medium made of pieces of another: of which, and how.

ALTER TABLE media ADD COLUMN tailored TEXT CHECK (tailored IS NULL OR json_valid(tailored));
