CREATE TABLE setting_new (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    value ANY NOT NULL,
    PRIMARY KEY (project_id, name)
) STRICT, WITHOUT ROWID;
INSERT INTO setting_new SELECT project_id, name, value FROM setting;
DROP TABLE setting;
ALTER TABLE setting_new RENAME TO setting;

ALTER TABLE lane ADD COLUMN trigger TEXT NOT NULL DEFAULT 'voice' CHECK (trigger IN ('voice', 'level', 'clip'));
ALTER TABLE lane ADD COLUMN level_db REAL NOT NULL DEFAULT -36 CHECK (level_db BETWEEN -90 AND 0);
ALTER TABLE lane ADD COLUMN frozen INTEGER NOT NULL DEFAULT 0 CHECK (frozen IN (0, 1));
ALTER TABLE clip ADD COLUMN trigger TEXT CHECK (trigger IN ('voice', 'level', 'clip'));
ALTER TABLE clip ADD COLUMN level_db REAL CHECK (level_db BETWEEN -90 AND 0);
ALTER TABLE clip ADD COLUMN root INTEGER NOT NULL DEFAULT 0;

CREATE TABLE perch (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    position REAL NOT NULL,
    PRIMARY KEY (project_id, name)
) STRICT, WITHOUT ROWID;
INSERT INTO perch (project_id, name, position)
    SELECT p.id, t.name, t.position FROM project p,
    (SELECT 'dialogue' AS name, 0.0 AS position UNION SELECT 'effects', 1.0 UNION SELECT 'music', 2.0 UNION SELECT 'ambience', 3.0) t;

CREATE TABLE pair (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    upper TEXT NOT NULL,
    lower TEXT NOT NULL,
    own TEXT NOT NULL CHECK (json_valid(own)),
    PRIMARY KEY (project_id, upper, lower)
) STRICT, WITHOUT ROWID;

CREATE TABLE speech_pin (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    heard TEXT NOT NULL CHECK (heard IN ('speech', 'not speech', 'apart', 'joined')),
    start_n INTEGER NOT NULL CHECK (start_n >= 0),
    stop_n INTEGER NOT NULL CHECK (stop_n > start_n)
) STRICT;
CREATE INDEX speech_pin_of_project ON speech_pin (project_id, id);

CREATE TABLE dip_pin (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    start_n INTEGER NOT NULL CHECK (start_n >= 0),
    stop_n INTEGER NOT NULL CHECK (stop_n > start_n),
    own TEXT NOT NULL CHECK (json_valid(own))
) STRICT;
CREATE INDEX dip_pin_of_project ON dip_pin (project_id, id);

CREATE TABLE point_pin (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    root INTEGER NOT NULL,
    at_n INTEGER NOT NULL,
    gain_db REAL CHECK (gain_db BETWEEN -90 AND 12),
    instead_n INTEGER,
    dipped INTEGER NOT NULL DEFAULT 0 CHECK (dipped IN (0, 1))
) STRICT;
CREATE INDEX point_pin_of_project ON point_pin (project_id, id);

CREATE TABLE preset (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    settings TEXT NOT NULL CHECK (json_valid(settings)),
    created_at TEXT NOT NULL
) STRICT;
