CREATE TABLE serial (next INTEGER NOT NULL) STRICT;
INSERT INTO serial (next) VALUES (1);

CREATE TABLE project (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
    revision INTEGER NOT NULL DEFAULT 0,
    created_at TEXT NOT NULL,
    updated_at TEXT NOT NULL
) STRICT;

CREATE TABLE setting (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    value REAL NOT NULL,
    PRIMARY KEY (project_id, name)
) STRICT, WITHOUT ROWID;

CREATE TABLE media (
    id INTEGER PRIMARY KEY,
    sha256 TEXT NOT NULL UNIQUE CHECK (length(sha256) = 64),
    name TEXT NOT NULL,
    size_bytes INTEGER NOT NULL CHECK (size_bytes >= 0),
    length_n INTEGER NOT NULL CHECK (length_n > 0),
    has_sound INTEGER NOT NULL CHECK (has_sound IN (0, 1)),
    has_picture INTEGER NOT NULL CHECK (has_picture IN (0, 1)),
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE lane (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    position REAL NOT NULL,
    name TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('picture', 'sound')),
    tag TEXT NOT NULL CHECK (tag IN ('dialogue', 'music', 'effects', 'ambience', 'untagged')),
    gain_db REAL NOT NULL DEFAULT 0 CHECK (gain_db BETWEEN -90 AND 24),
    muted INTEGER NOT NULL DEFAULT 0 CHECK (muted IN (0, 1)),
    soloed INTEGER NOT NULL DEFAULT 0 CHECK (soloed IN (0, 1))
) STRICT;
CREATE INDEX lane_of_project ON lane (project_id, position);

CREATE TABLE clip (
    id INTEGER PRIMARY KEY,
    lane_id INTEGER NOT NULL REFERENCES lane (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    name TEXT NOT NULL,
    start_n INTEGER NOT NULL CHECK (start_n >= 0),
    offset_n INTEGER NOT NULL CHECK (offset_n >= 0),
    length_n INTEGER NOT NULL CHECK (length_n > 0),
    tag TEXT CHECK (tag IN ('dialogue', 'music', 'effects', 'ambience', 'untagged')),
    gain_db REAL NOT NULL DEFAULT 0 CHECK (gain_db BETWEEN -90 AND 24),
    muted INTEGER NOT NULL DEFAULT 0 CHECK (muted IN (0, 1)),
    link INTEGER
) STRICT;
CREATE INDEX clip_of_lane ON clip (lane_id, start_n);
CREATE INDEX clip_of_media ON clip (media_id);

CREATE TABLE edit (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    label TEXT NOT NULL,
    gesture TEXT,
    undo TEXT NOT NULL CHECK (json_valid(undo)),
    redo TEXT NOT NULL CHECK (json_valid(redo)),
    undone INTEGER NOT NULL DEFAULT 0 CHECK (undone IN (0, 1)),
    created_at TEXT NOT NULL
) STRICT;
CREATE INDEX edit_of_project ON edit (project_id, undone, id);

CREATE TABLE upload (
    token TEXT PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    size_bytes INTEGER NOT NULL CHECK (size_bytes >= 0),
    at_n INTEGER NOT NULL CHECK (at_n >= 0),
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    kind TEXT NOT NULL CHECK (kind IN ('import', 'export')),
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
CREATE INDEX job_of_project ON job (project_id, state);

CREATE TABLE app_fact (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
