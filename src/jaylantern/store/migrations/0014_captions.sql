-- Captions: under the name of their file, cues as JSON, each tied to what it was written for.

CREATE TABLE captions (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    form TEXT NOT NULL,
    cues TEXT NOT NULL CHECK (json_valid(cues)),
    checked INTEGER NOT NULL,
    head TEXT NOT NULL
) STRICT;
CREATE INDEX captions_of_project ON captions (project_id);

-- What counts as sounding may be where captions stand. Which triggers there are stands in the program: the columns are
-- made anew without the list of them.

ALTER TABLE lane ADD COLUMN trigger_new TEXT NOT NULL DEFAULT 'voice';
UPDATE lane SET trigger_new = trigger;
ALTER TABLE lane DROP COLUMN trigger;
ALTER TABLE lane RENAME COLUMN trigger_new TO trigger;
ALTER TABLE clip ADD COLUMN trigger_new TEXT;
UPDATE clip SET trigger_new = trigger;
ALTER TABLE clip DROP COLUMN trigger;
ALTER TABLE clip RENAME COLUMN trigger_new TO trigger;
