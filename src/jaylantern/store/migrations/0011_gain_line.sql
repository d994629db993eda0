-- A line of gain drawn by hand on a clip: points of media time, dB and ramp.

ALTER TABLE clip ADD COLUMN line TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(line));
