-- Ambience is called atmosphere, narration has a perch above all others, and which tags there are stands in the program
-- alone: lane and clip are made anew without the list of tags. Clips wait in a table of their own meanwhile, for dropping
-- the lanes would take them along.

CREATE TABLE clip_waiting AS SELECT * FROM clip;
DROP TABLE clip;

CREATE TABLE lane_new (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    position REAL NOT NULL,
    name TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('picture', 'sound')),
    tag TEXT NOT NULL,
    gain_db REAL NOT NULL DEFAULT 0 CHECK (gain_db BETWEEN -90 AND 24),
    muted INTEGER NOT NULL DEFAULT 0 CHECK (muted IN (0, 1)),
    soloed INTEGER NOT NULL DEFAULT 0 CHECK (soloed IN (0, 1)),
    bystander INTEGER NOT NULL DEFAULT 0 CHECK (bystander IN (0, 1)),
    trigger TEXT NOT NULL DEFAULT 'voice' CHECK (trigger IN ('voice', 'level', 'clip')),
    level_db REAL NOT NULL DEFAULT -36 CHECK (level_db BETWEEN -90 AND 0),
    frozen INTEGER NOT NULL DEFAULT 0 CHECK (frozen IN (0, 1))
) STRICT;
INSERT INTO lane_new (id, project_id, position, name, kind, tag, gain_db, muted, soloed, bystander, trigger, level_db, frozen)
    SELECT id, project_id, position, name, kind, iif(tag = 'ambience', 'atmosphere', tag), gain_db, muted, soloed, bystander,
        trigger, level_db, frozen FROM lane;
DROP TABLE lane;
ALTER TABLE lane_new RENAME TO lane;
CREATE INDEX lane_of_project ON lane (project_id, position);

CREATE TABLE clip (
    id INTEGER PRIMARY KEY,
    lane_id INTEGER NOT NULL REFERENCES lane (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    name TEXT NOT NULL,
    start_n INTEGER NOT NULL CHECK (start_n >= 0),
    offset_n INTEGER NOT NULL CHECK (offset_n >= 0),
    length_n INTEGER NOT NULL CHECK (length_n > 0),
    tag TEXT,
    gain_db REAL NOT NULL DEFAULT 0 CHECK (gain_db BETWEEN -90 AND 24),
    muted INTEGER NOT NULL DEFAULT 0 CHECK (muted IN (0, 1)),
    link INTEGER,
    channels TEXT NOT NULL DEFAULT 'both' CHECK (channels IN ('both', 'left', 'right', 'mono')),
    fade_in_n INTEGER NOT NULL DEFAULT 0 CHECK (fade_in_n >= 0),
    fade_in_shape TEXT NOT NULL DEFAULT 'round' CHECK (fade_in_shape IN ('straight', 'round', 'eased', 'late')),
    fade_out_n INTEGER NOT NULL DEFAULT 0 CHECK (fade_out_n >= 0),
    fade_out_shape TEXT NOT NULL DEFAULT 'round' CHECK (fade_out_shape IN ('straight', 'round', 'eased', 'late')),
    bystander INTEGER NOT NULL DEFAULT 0 CHECK (bystander IN (0, 1)),
    trigger TEXT CHECK (trigger IN ('voice', 'level', 'clip')),
    level_db REAL CHECK (level_db BETWEEN -90 AND 0),
    root INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO clip (id, lane_id, media_id, name, start_n, offset_n, length_n, tag, gain_db, muted, link, channels, fade_in_n,
        fade_in_shape, fade_out_n, fade_out_shape, bystander, trigger, level_db, root)
    SELECT id, lane_id, media_id, name, start_n, offset_n, length_n, iif(tag = 'ambience', 'atmosphere', tag), gain_db, muted,
        link, channels, fade_in_n, fade_in_shape, fade_out_n, fade_out_shape, bystander, trigger, level_db, root
    FROM clip_waiting;
DROP TABLE clip_waiting;
CREATE INDEX clip_of_lane ON clip (lane_id, start_n);
CREATE INDEX clip_of_media ON clip (media_id);

UPDATE perch SET position = position + 1;
UPDATE perch SET name = 'atmosphere' WHERE name = 'ambience';
INSERT INTO perch (project_id, name, position) SELECT id, 'narration', 0.0 FROM project;
UPDATE pair SET upper = 'atmosphere' WHERE upper = 'ambience';
UPDATE pair SET lower = 'atmosphere' WHERE lower = 'ambience';
UPDATE setting SET name = 'atmosphere_db' WHERE name = 'ambience_db';
UPDATE preset SET settings =
    json_remove(json_set(settings, '$.atmosphere_db', json_extract(settings, '$.ambience_db')), '$.ambience_db')
    WHERE json_extract(settings, '$.ambience_db') IS NOT NULL;

-- The same in what undo and redo would do. An operation is an object with a table, a key and values; a name of a lane or
-- a marker that happens to be "ambience" stays.

CREATE TEMP TABLE step (edit_id INTEGER, way TEXT, place INTEGER, op TEXT);
INSERT INTO step SELECT e.id, 'undo', j.key, j.value FROM edit e, json_each(e.undo) j;
INSERT INTO step SELECT e.id, 'redo', j.key, j.value FROM edit e, json_each(e.redo) j;
UPDATE step SET op = json_set(op, '$.values.tag', 'atmosphere')
    WHERE json_extract(op, '$.table') IN ('lane', 'clip') AND json_extract(op, '$.values.tag') = 'ambience';
UPDATE step SET op = json_set(op, '$.values.position', json_extract(op, '$.values.position') + 1)
    WHERE json_extract(op, '$.table') = 'perch' AND json_extract(op, '$.values.position') IS NOT NULL;
UPDATE step SET op = json_set(op, '$.values.name', 'atmosphere')
    WHERE json_extract(op, '$.table') = 'perch' AND json_extract(op, '$.values.name') = 'ambience';
UPDATE step SET op = json_set(op, '$.key.name', 'atmosphere')
    WHERE json_extract(op, '$.table') = 'perch' AND json_extract(op, '$.key.name') = 'ambience';
UPDATE step SET op = json_set(op, '$.values.upper', 'atmosphere')
    WHERE json_extract(op, '$.table') = 'pair' AND json_extract(op, '$.values.upper') = 'ambience';
UPDATE step SET op = json_set(op, '$.values.lower', 'atmosphere')
    WHERE json_extract(op, '$.table') = 'pair' AND json_extract(op, '$.values.lower') = 'ambience';
UPDATE step SET op = json_set(op, '$.key.upper', 'atmosphere')
    WHERE json_extract(op, '$.table') = 'pair' AND json_extract(op, '$.key.upper') = 'ambience';
UPDATE step SET op = json_set(op, '$.key.lower', 'atmosphere')
    WHERE json_extract(op, '$.table') = 'pair' AND json_extract(op, '$.key.lower') = 'ambience';
UPDATE step SET op = json_set(op, '$.key.name', 'atmosphere_db')
    WHERE json_extract(op, '$.table') = 'setting' AND json_extract(op, '$.key.name') = 'ambience_db';
UPDATE edit SET
    undo = (SELECT json_group_array(json(op)) FROM (SELECT op FROM step WHERE edit_id = edit.id AND way = 'undo' ORDER BY place)),
    redo = (SELECT json_group_array(json(op)) FROM (SELECT op FROM step WHERE edit_id = edit.id AND way = 'redo' ORDER BY place));
DROP TABLE step;
