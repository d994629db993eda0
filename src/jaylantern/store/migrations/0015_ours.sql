-- What was handed off is a thing of its own: it outlives the work that made it, and goes when a person says so.

CREATE TABLE made (
    job_id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    title TEXT NOT NULL,
    message TEXT NOT NULL,
    made_at TEXT NOT NULL,
    removed_at TEXT
) STRICT;
CREATE INDEX made_of_project ON made (project_id, job_id);
INSERT INTO made (job_id, project_id, title, message, made_at)
    SELECT id, project_id, title, message, coalesce(finished_at, created_at) FROM job
    WHERE kind = 'export' AND state = 'done' AND dismissed = 0;

-- The state of a project that is to be handed off, as it was when that was asked for: its rows as JSON.

CREATE TABLE asked_state (
    job_id INTEGER PRIMARY KEY REFERENCES job (id) ON DELETE CASCADE,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

-- What the program made in the data folder and may clear away when no other row speaks of it: paths within the folder.

CREATE TABLE ours (path TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;
INSERT INTO ours SELECT 'takes/' || token FROM take UNION SELECT 'takes/' || token || '.wav' FROM take;
INSERT OR IGNORE INTO ours SELECT 'incoming/' || token FROM upload;
INSERT OR IGNORE INTO ours SELECT 'incoming/' || json_extract(payload, '$.token') FROM job
    WHERE kind = 'import' AND json_extract(payload, '$.token') IS NOT NULL;
INSERT OR IGNORE INTO ours SELECT 'exports/' || id FROM job
    WHERE kind = 'export' AND NOT (state = 'done' AND dismissed = 0);

-- What a speech pin says may be that a passage begins or ends there. Which words there are stands in the program: the
-- column is made anew without the list of them.

ALTER TABLE speech_pin ADD COLUMN heard_new TEXT NOT NULL DEFAULT 'speech';
UPDATE speech_pin SET heard_new = heard;
ALTER TABLE speech_pin DROP COLUMN heard;
ALTER TABLE speech_pin RENAME COLUMN heard_new TO heard;

-- How each project was ducked when it was last looked at, and of which state that is.

CREATE TABLE ducked (
    project_id INTEGER PRIMARY KEY REFERENCES project (id) ON DELETE CASCADE,
    fingerprint TEXT NOT NULL,
    outline TEXT NOT NULL CHECK (json_valid(outline))
) STRICT;
