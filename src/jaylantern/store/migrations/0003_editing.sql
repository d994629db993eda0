ALTER TABLE clip ADD COLUMN channels TEXT NOT NULL DEFAULT 'both' CHECK (channels IN ('both', 'left', 'right', 'mono'));
ALTER TABLE clip ADD COLUMN fade_in_n INTEGER NOT NULL DEFAULT 0 CHECK (fade_in_n >= 0);
ALTER TABLE clip ADD COLUMN fade_in_shape TEXT NOT NULL DEFAULT 'round' CHECK (fade_in_shape IN ('straight', 'round', 'eased', 'late'));
ALTER TABLE clip ADD COLUMN fade_out_n INTEGER NOT NULL DEFAULT 0 CHECK (fade_out_n >= 0);
ALTER TABLE clip ADD COLUMN fade_out_shape TEXT NOT NULL DEFAULT 'round' CHECK (fade_out_shape IN ('straight', 'round', 'eased', 'late'));
ALTER TABLE clip ADD COLUMN bystander INTEGER NOT NULL DEFAULT 0 CHECK (bystander IN (0, 1));
ALTER TABLE lane ADD COLUMN bystander INTEGER NOT NULL DEFAULT 0 CHECK (bystander IN (0, 1));
ALTER TABLE project ADD COLUMN in_n INTEGER CHECK (in_n >= 0);
ALTER TABLE project ADD COLUMN out_n INTEGER CHECK (out_n > 0);

CREATE TABLE marker (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    time_n INTEGER NOT NULL CHECK (time_n >= 0),
    name TEXT NOT NULL
) STRICT;
CREATE INDEX marker_of_project ON marker (project_id, time_n);

CREATE TABLE project_media (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    name TEXT NOT NULL,
    is_take INTEGER NOT NULL DEFAULT 0 CHECK (is_take IN (0, 1)),
    added_at TEXT NOT NULL,
    PRIMARY KEY (project_id, media_id, name)
) STRICT, WITHOUT ROWID;
INSERT INTO project_media (project_id, media_id, name, added_at)
    SELECT DISTINCT l.project_id, c.media_id, c.name, m.created_at
    FROM clip c JOIN lane l ON l.id = c.lane_id JOIN media m ON m.id = c.media_id;

CREATE TABLE suggestion_ignored (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    PRIMARY KEY (project_id, media_id)
) STRICT, WITHOUT ROWID;

CREATE TABLE take (
    token TEXT PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    at_n INTEGER NOT NULL CHECK (at_n >= 0),
    latency_n INTEGER NOT NULL DEFAULT 0 CHECK (latency_n >= 0),
    state TEXT NOT NULL CHECK (state IN ('recording', 'recorded', 'kept', 'discarded')),
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE job_new (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    kind TEXT NOT NULL CHECK (kind IN ('import', 'export', 'picture')),
    title TEXT NOT NULL,
    payload TEXT NOT NULL CHECK (json_valid(payload)),
    state TEXT NOT NULL CHECK (state IN ('queued', 'running', 'done', 'failed', 'stopped')),
    share REAL NOT NULL DEFAULT 0,
    doing TEXT NOT NULL DEFAULT 'waiting',
    message TEXT NOT NULL DEFAULT '',
    stop_asked INTEGER NOT NULL DEFAULT 0 CHECK (stop_asked IN (0, 1)),
    attempts INTEGER NOT NULL DEFAULT 0,
    dismissed INTEGER NOT NULL DEFAULT 0 CHECK (dismissed IN (0, 1)),
    created_at TEXT NOT NULL,
    finished_at TEXT
) STRICT;
INSERT INTO job_new SELECT * FROM job;
DROP TABLE job;
ALTER TABLE job_new RENAME TO job;
CREATE INDEX job_of_project ON job (project_id, state);
