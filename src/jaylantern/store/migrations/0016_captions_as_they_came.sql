-- What stands behind the last cue of a file of captions, and how its letters were read where that had to be guessed.

ALTER TABLE captions ADD COLUMN tail TEXT NOT NULL DEFAULT '';
ALTER TABLE captions ADD COLUMN encoding TEXT NOT NULL DEFAULT '';
