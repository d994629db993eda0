-- Media that an older ear heard are heard again: a kind of work of its own. Which kinds there are stands in the program.

CREATE TABLE job_new (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    kind TEXT NOT NULL,
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
