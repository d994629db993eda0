BEGIN TRANSACTION;
CREATE TABLE app_fact (
    name TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
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
, channels TEXT NOT NULL DEFAULT 'both' CHECK (channels IN ('both', 'left', 'right', 'mono')), fade_in_n INTEGER NOT NULL DEFAULT 0 CHECK (fade_in_n >= 0), fade_in_shape TEXT NOT NULL DEFAULT 'round' CHECK (fade_in_shape IN ('straight', 'round', 'eased', 'late')), fade_out_n INTEGER NOT NULL DEFAULT 0 CHECK (fade_out_n >= 0), fade_out_shape TEXT NOT NULL DEFAULT 'round' CHECK (fade_out_shape IN ('straight', 'round', 'eased', 'late')), bystander INTEGER NOT NULL DEFAULT 0 CHECK (bystander IN (0, 1)), trigger TEXT CHECK (trigger IN ('voice', 'level', 'clip')), level_db REAL CHECK (level_db BETWEEN -90 AND 0), root INTEGER NOT NULL DEFAULT 0) STRICT;
INSERT INTO "clip" VALUES(4,3,2,'Narrator.flac',0,0,1440000,NULL,0.0,0,NULL,'both',0,'round',0,'round',0,NULL,NULL,0);
INSERT INTO "clip" VALUES(7,6,5,'Bed.opus',48000,0,1440000,NULL,0.0,0,NULL,'both',0,'round',0,'round',0,NULL,NULL,0);
INSERT INTO "clip" VALUES(10,9,8,'Harbour.wav',96000,0,1440000,NULL,0.0,0,NULL,'both',0,'round',0,'round',0,NULL,NULL,0);
INSERT INTO "clip" VALUES(13,12,11,'Chime.wav',144000,0,1440000,'ambience',0.0,0,NULL,'both',0,'round',0,'round',0,NULL,NULL,0);
CREATE TABLE dip_pin (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    start_n INTEGER NOT NULL CHECK (start_n >= 0),
    stop_n INTEGER NOT NULL CHECK (stop_n > start_n),
    own TEXT NOT NULL CHECK (json_valid(own))
) STRICT;
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
INSERT INTO "edit" VALUES(1,1,'Bring in Narrator.flac',NULL,'[{"do": "drop", "table": "clip", "key": {"id": 4}}, {"do": "drop", "table": "lane", "key": {"id": 3}}]','[{"do": "add", "table": "lane", "values": {"id": 3, "project_id": 1, "position": 0.0, "name": "Narrator", "kind": "sound", "tag": "untagged", "gain_db": 0.0, "muted": 0, "soloed": 0, "bystander": 0, "trigger": "voice", "level_db": -36.0, "frozen": 0}}, {"do": "add", "table": "clip", "values": {"id": 4, "lane_id": 3, "media_id": 2, "name": "Narrator.flac", "start_n": 0, "offset_n": 0, "length_n": 1440000, "tag": null, "gain_db": 0.0, "muted": 0, "link": null, "channels": "both", "fade_in_n": 0, "fade_in_shape": "round", "fade_out_n": 0, "fade_out_shape": "round", "bystander": 0, "trigger": null, "level_db": null, "root": 0}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(2,1,'Bring in Bed.opus',NULL,'[{"do": "set", "table": "lane", "key": {"id": 3}, "values": {"position": 0.0}}, {"do": "drop", "table": "clip", "key": {"id": 7}}, {"do": "drop", "table": "lane", "key": {"id": 6}}]','[{"do": "add", "table": "lane", "values": {"id": 6, "project_id": 1, "position": 1.0, "name": "Bed", "kind": "sound", "tag": "untagged", "gain_db": 0.0, "muted": 0, "soloed": 0, "bystander": 0, "trigger": "voice", "level_db": -36.0, "frozen": 0}}, {"do": "add", "table": "clip", "values": {"id": 7, "lane_id": 6, "media_id": 5, "name": "Bed.opus", "start_n": 48000, "offset_n": 0, "length_n": 1440000, "tag": null, "gain_db": 0.0, "muted": 0, "link": null, "channels": "both", "fade_in_n": 0, "fade_in_shape": "round", "fade_out_n": 0, "fade_out_shape": "round", "bystander": 0, "trigger": null, "level_db": null, "root": 0}}, {"do": "set", "table": "lane", "key": {"id": 3}, "values": {"position": 0.0}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(3,1,'Bring in Harbour.wav',NULL,'[{"do": "set", "table": "lane", "key": {"id": 6}, "values": {"position": 1.0}}, {"do": "set", "table": "lane", "key": {"id": 3}, "values": {"position": 0.0}}, {"do": "drop", "table": "clip", "key": {"id": 10}}, {"do": "drop", "table": "lane", "key": {"id": 9}}]','[{"do": "add", "table": "lane", "values": {"id": 9, "project_id": 1, "position": 2.0, "name": "Harbour", "kind": "sound", "tag": "untagged", "gain_db": 0.0, "muted": 0, "soloed": 0, "bystander": 0, "trigger": "voice", "level_db": -36.0, "frozen": 0}}, {"do": "add", "table": "clip", "values": {"id": 10, "lane_id": 9, "media_id": 8, "name": "Harbour.wav", "start_n": 96000, "offset_n": 0, "length_n": 1440000, "tag": null, "gain_db": 0.0, "muted": 0, "link": null, "channels": "both", "fade_in_n": 0, "fade_in_shape": "round", "fade_out_n": 0, "fade_out_shape": "round", "bystander": 0, "trigger": null, "level_db": null, "root": 0}}, {"do": "set", "table": "lane", "key": {"id": 3}, "values": {"position": 0.0}}, {"do": "set", "table": "lane", "key": {"id": 6}, "values": {"position": 1.0}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(4,1,'Bring in Chime.wav',NULL,'[{"do": "set", "table": "lane", "key": {"id": 9}, "values": {"position": 2.0}}, {"do": "set", "table": "lane", "key": {"id": 6}, "values": {"position": 1.0}}, {"do": "set", "table": "lane", "key": {"id": 3}, "values": {"position": 0.0}}, {"do": "drop", "table": "clip", "key": {"id": 13}}, {"do": "drop", "table": "lane", "key": {"id": 12}}]','[{"do": "add", "table": "lane", "values": {"id": 12, "project_id": 1, "position": 3.0, "name": "Chime", "kind": "sound", "tag": "untagged", "gain_db": 0.0, "muted": 0, "soloed": 0, "bystander": 0, "trigger": "voice", "level_db": -36.0, "frozen": 0}}, {"do": "add", "table": "clip", "values": {"id": 13, "lane_id": 12, "media_id": 11, "name": "Chime.wav", "start_n": 144000, "offset_n": 0, "length_n": 1440000, "tag": null, "gain_db": 0.0, "muted": 0, "link": null, "channels": "both", "fade_in_n": 0, "fade_in_shape": "round", "fade_out_n": 0, "fade_out_shape": "round", "bystander": 0, "trigger": null, "level_db": null, "root": 0}}, {"do": "set", "table": "lane", "key": {"id": 3}, "values": {"position": 0.0}}, {"do": "set", "table": "lane", "key": {"id": 6}, "values": {"position": 1.0}}, {"do": "set", "table": "lane", "key": {"id": 9}, "values": {"position": 2.0}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(5,1,'Tag lane Narrator as dialogue',NULL,'[{"do": "set", "table": "lane", "key": {"id": 3}, "values": {"tag": "untagged"}}]','[{"do": "set", "table": "lane", "key": {"id": 3}, "values": {"tag": "dialogue"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(6,1,'Tag lane Bed as music',NULL,'[{"do": "set", "table": "lane", "key": {"id": 6}, "values": {"tag": "untagged"}}]','[{"do": "set", "table": "lane", "key": {"id": 6}, "values": {"tag": "music"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(7,1,'Tag lane Harbour as ambience',NULL,'[{"do": "set", "table": "lane", "key": {"id": 9}, "values": {"tag": "untagged"}}]','[{"do": "set", "table": "lane", "key": {"id": 9}, "values": {"tag": "ambience"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(8,1,'Tag Chime.wav as ambience',NULL,'[{"do": "set", "table": "clip", "key": {"id": 13}, "values": {"tag": null}}]','[{"do": "set", "table": "clip", "key": {"id": 13}, "values": {"tag": "ambience"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(9,1,'Ambience -7 dB, Duck amount -12 dB',NULL,'[{"do": "set", "table": "setting", "key": {"project_id": 1, "name": "ambience_db"}, "values": {"value": -4}}, {"do": "set", "table": "setting", "key": {"project_id": 1, "name": "amount_db"}, "values": {"value": -14}}]','[{"do": "set", "table": "setting", "key": {"project_id": 1, "name": "amount_db"}, "values": {"value": -12.0}}, {"do": "set", "table": "setting", "key": {"project_id": 1, "name": "ambience_db"}, "values": {"value": -7.0}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(10,1,'ambience under dialogue: Attack 1000',NULL,'[{"do": "drop", "table": "pair", "key": {"project_id": 1, "upper": "dialogue", "lower": "ambience"}}]','[{"do": "add", "table": "pair", "values": {"project_id": 1, "upper": "dialogue", "lower": "ambience", "own": "{\"attack_ms\": 1000.0}"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(11,1,'ambience under effects: Duck amount -3',NULL,'[{"do": "drop", "table": "pair", "key": {"project_id": 1, "upper": "effects", "lower": "ambience"}}]','[{"do": "add", "table": "pair", "values": {"project_id": 1, "upper": "effects", "lower": "ambience", "own": "{\"amount_db\": -3.0}"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(12,1,'Narrator on a perch of its own',NULL,'[{"do": "drop", "table": "pair", "key": {"project_id": 1, "upper": "lane 3", "lower": "dialogue"}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "ambience"}, "values": {"position": 3.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "music"}, "values": {"position": 2.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "effects"}, "values": {"position": 1.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "dialogue"}, "values": {"position": 0.0}}, {"do": "drop", "table": "perch", "key": {"project_id": 1, "name": "lane 3"}}]','[{"do": "add", "table": "perch", "values": {"project_id": 1, "name": "lane 3", "position": 0.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "dialogue"}, "values": {"position": 1.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "effects"}, "values": {"position": 2.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "music"}, "values": {"position": 3.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "ambience"}, "values": {"position": 4.0}}, {"do": "add", "table": "pair", "values": {"project_id": 1, "upper": "lane 3", "lower": "dialogue", "own": "{\"amount_db\": -10.0}"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(13,1,'Perch of ambience moved',NULL,'[{"do": "set", "table": "perch", "key": {"project_id": 1, "name": "music"}, "values": {"position": 3.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "effects"}, "values": {"position": 2.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "dialogue"}, "values": {"position": 1.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "ambience"}, "values": {"position": 4.0}}]','[{"do": "set", "table": "perch", "key": {"project_id": 1, "name": "ambience"}, "values": {"position": 1.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "dialogue"}, "values": {"position": 2.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "effects"}, "values": {"position": 3.0}}, {"do": "set", "table": "perch", "key": {"project_id": 1, "name": "music"}, "values": {"position": 4.0}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(14,1,'Rename lane Chime to ambience',NULL,'[{"do": "set", "table": "lane", "key": {"id": 12}, "values": {"name": "Chime"}}]','[{"do": "set", "table": "lane", "key": {"id": 12}, "values": {"name": "ambience"}}]',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(15,1,'Marker ambience at 00:02.00',NULL,'[{"do": "drop", "table": "marker", "key": {"id": 14}}]','[{"do": "add", "table": "marker", "values": {"id": 14, "project_id": 1, "time_n": 96000, "name": "ambience"}}]',1,'2026-11-28T08:51:11+00:00');
INSERT INTO "edit" VALUES(16,1,'Ambience -9 dB',NULL,'[{"do": "set", "table": "setting", "key": {"project_id": 1, "name": "ambience_db"}, "values": {"value": -7.0}}]','[{"do": "set", "table": "setting", "key": {"project_id": 1, "name": "ambience_db"}, "values": {"value": -9.0}}]',1,'2026-11-28T08:51:11+00:00');
CREATE TABLE "job" (
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
, bystander INTEGER NOT NULL DEFAULT 0 CHECK (bystander IN (0, 1)), trigger TEXT NOT NULL DEFAULT 'voice' CHECK (trigger IN ('voice', 'level', 'clip')), level_db REAL NOT NULL DEFAULT -36 CHECK (level_db BETWEEN -90 AND 0), frozen INTEGER NOT NULL DEFAULT 0 CHECK (frozen IN (0, 1))) STRICT;
INSERT INTO "lane" VALUES(3,1,0.0,'Narrator','sound','dialogue',0.0,0,0,0,'voice',-36.0,0);
INSERT INTO "lane" VALUES(6,1,1.0,'Bed','sound','music',0.0,0,0,0,'voice',-36.0,0);
INSERT INTO "lane" VALUES(9,1,2.0,'Harbour','sound','ambience',0.0,0,0,0,'voice',-36.0,0);
INSERT INTO "lane" VALUES(12,1,3.0,'ambience','sound','untagged',0.0,0,0,0,'voice',-36.0,0);
CREATE TABLE marker (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    time_n INTEGER NOT NULL CHECK (time_n >= 0),
    name TEXT NOT NULL
) STRICT;
CREATE TABLE media (
    id INTEGER PRIMARY KEY,
    sha256 TEXT NOT NULL UNIQUE CHECK (length(sha256) = 64),
    name TEXT NOT NULL,
    size_bytes INTEGER NOT NULL CHECK (size_bytes >= 0),
    length_n INTEGER NOT NULL CHECK (length_n > 0),
    has_sound INTEGER NOT NULL CHECK (has_sound IN (0, 1)),
    has_picture INTEGER NOT NULL CHECK (has_picture IN (0, 1)),
    created_at TEXT NOT NULL
, missing INTEGER NOT NULL DEFAULT 0 CHECK (missing IN (0, 1)), wanted_sha256 TEXT NOT NULL DEFAULT '', wanted_url TEXT NOT NULL DEFAULT '') STRICT;
INSERT INTO "media" VALUES(2,'00000000000000000000000000000000000000000000000000000000000000a1','Narrator.flac',1000,1440000,1,0,'2026-11-28T08:51:11+00:00',0,'','');
INSERT INTO "media" VALUES(5,'00000000000000000000000000000000000000000000000000000000000000a2','Bed.opus',1000,1440000,1,0,'2026-11-28T08:51:11+00:00',0,'','');
INSERT INTO "media" VALUES(8,'00000000000000000000000000000000000000000000000000000000000000a3','Harbour.wav',1000,1440000,1,0,'2026-11-28T08:51:11+00:00',0,'','');
INSERT INTO "media" VALUES(11,'00000000000000000000000000000000000000000000000000000000000000a4','Chime.wav',1000,1440000,1,0,'2026-11-28T08:51:11+00:00',0,'','');
CREATE TABLE migration (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO "migration" VALUES('0001_projects.sql','2026-11-28T08:51:11+00:00');
INSERT INTO "migration" VALUES('0002_removed_projects.sql','2026-11-28T08:51:11+00:00');
INSERT INTO "migration" VALUES('0003_editing.sql','2026-11-28T08:51:11+00:00');
INSERT INTO "migration" VALUES('0004_ducking.sql','2026-11-28T08:51:11+00:00');
INSERT INTO "migration" VALUES('0005_level.sql','2026-11-28T08:51:11+00:00');
INSERT INTO "migration" VALUES('0006_missing_media.sql','2026-11-28T08:51:11+00:00');
INSERT INTO "migration" VALUES('0007_takes_again.sql','2026-11-28T08:51:11+00:00');
CREATE TABLE pair (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    upper TEXT NOT NULL,
    lower TEXT NOT NULL,
    own TEXT NOT NULL CHECK (json_valid(own)),
    PRIMARY KEY (project_id, upper, lower)
) STRICT, WITHOUT ROWID;
INSERT INTO "pair" VALUES(1,'dialogue','ambience','{"attack_ms": 1000.0}');
INSERT INTO "pair" VALUES(1,'effects','ambience','{"amount_db": -3.0}');
INSERT INTO "pair" VALUES(1,'lane 3','dialogue','{"amount_db": -10.0}');
CREATE TABLE perch (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    position REAL NOT NULL,
    PRIMARY KEY (project_id, name)
) STRICT, WITHOUT ROWID;
INSERT INTO "perch" VALUES(1,'ambience',1.0);
INSERT INTO "perch" VALUES(1,'dialogue',2.0);
INSERT INTO "perch" VALUES(1,'effects',3.0);
INSERT INTO "perch" VALUES(1,'lane 3',0.0);
INSERT INTO "perch" VALUES(1,'music',4.0);
CREATE TABLE point_pin (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    root INTEGER NOT NULL,
    at_n INTEGER NOT NULL,
    gain_db REAL CHECK (gain_db BETWEEN -90 AND 12),
    instead_n INTEGER,
    dipped INTEGER NOT NULL DEFAULT 0 CHECK (dipped IN (0, 1))
) STRICT;
CREATE TABLE preset (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    settings TEXT NOT NULL CHECK (json_valid(settings)),
    created_at TEXT NOT NULL
) STRICT;
INSERT INTO "preset" VALUES(15,'Mine','{"ambience_db": -11.0, "amount_db": -20.0}','2026-11-28T08:51:11+00:00');
CREATE TABLE project (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
    revision INTEGER NOT NULL DEFAULT 0,
    created_at TEXT NOT NULL,
    updated_at TEXT NOT NULL
, removed_at TEXT, in_n INTEGER CHECK (in_n >= 0), out_n INTEGER CHECK (out_n > 0)) STRICT;
INSERT INTO "project" VALUES(1,'The Clock at Alder Quay',18,'2026-11-28T08:51:11+00:00','2026-11-28T08:51:11+00:00',NULL,NULL,NULL);
CREATE TABLE project_media (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    name TEXT NOT NULL,
    is_take INTEGER NOT NULL DEFAULT 0 CHECK (is_take IN (0, 1)),
    added_at TEXT NOT NULL,
    PRIMARY KEY (project_id, media_id, name)
) STRICT, WITHOUT ROWID;
INSERT INTO "project_media" VALUES(1,2,'Narrator.flac',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "project_media" VALUES(1,5,'Bed.opus',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "project_media" VALUES(1,8,'Harbour.wav',0,'2026-11-28T08:51:11+00:00');
INSERT INTO "project_media" VALUES(1,11,'Chime.wav',0,'2026-11-28T08:51:11+00:00');
CREATE TABLE serial (next INTEGER NOT NULL) STRICT;
INSERT INTO "serial" VALUES(16);
CREATE TABLE "setting" (
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    value ANY NOT NULL,
    PRIMARY KEY (project_id, name)
) STRICT, WITHOUT ROWID;
INSERT INTO "setting" VALUES(1,'ambience_db',-7.0);
INSERT INTO "setting" VALUES(1,'amount_db',-12.0);
INSERT INTO "setting" VALUES(1,'attack_ms',350);
INSERT INTO "setting" VALUES(1,'band','whole');
INSERT INTO "setting" VALUES(1,'band_high_hz',4000);
INSERT INTO "setting" VALUES(1,'band_low_hz',250);
INSERT INTO "setting" VALUES(1,'ceiling_dbtp',-1);
INSERT INTO "setting" VALUES(1,'comp_attack_ms',15);
INSERT INTO "setting" VALUES(1,'comp_hold_ms',1000);
INSERT INTO "setting" VALUES(1,'comp_release_ms',450);
INSERT INTO "setting" VALUES(1,'detector','rms');
INSERT INTO "setting" VALUES(1,'even_db',-12);
INSERT INTO "setting" VALUES(1,'even_out_db',0);
INSERT INTO "setting" VALUES(1,'even_out_s',8);
INSERT INTO "setting" VALUES(1,'fall','decibel');
INSERT INTO "setting" VALUES(1,'hold_ms',650);
INSERT INTO "setting" VALUES(1,'hysteresis_db',6);
INSERT INTO "setting" VALUES(1,'knee_db',6);
INSERT INTO "setting" VALUES(1,'last_release_ms',1800);
INSERT INTO "setting" VALUES(1,'lead_in_ms',120);
INSERT INTO "setting" VALUES(1,'least_rise_ms',1000);
INSERT INTO "setting" VALUES(1,'level_hold_ms',250);
INSERT INTO "setting" VALUES(1,'limiter_release_ms',100);
INSERT INTO "setting" VALUES(1,'look_ahead_ms',30);
INSERT INTO "setting" VALUES(1,'mode','passage');
INSERT INTO "setting" VALUES(1,'output_db',0);
INSERT INTO "setting" VALUES(1,'range_db',-24);
INSERT INTO "setting" VALUES(1,'ratio',4);
INSERT INTO "setting" VALUES(1,'release_ms',900);
INSERT INTO "setting" VALUES(1,'rise','decibel');
INSERT INTO "setting" VALUES(1,'sensitivity',50);
INSERT INTO "setting" VALUES(1,'target_lufs',-23);
INSERT INTO "setting" VALUES(1,'thin_db',0.5);
INSERT INTO "setting" VALUES(1,'thin_ms',100);
INSERT INTO "setting" VALUES(1,'threshold_db',-30);
CREATE TABLE speech_pin (
    id INTEGER PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    media_id INTEGER NOT NULL REFERENCES media (id),
    heard TEXT NOT NULL CHECK (heard IN ('speech', 'not speech', 'apart', 'joined')),
    start_n INTEGER NOT NULL CHECK (start_n >= 0),
    stop_n INTEGER NOT NULL CHECK (stop_n > start_n)
) STRICT;
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
, media_id INTEGER REFERENCES media (id), edit_id INTEGER) STRICT;
CREATE TABLE target (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    lufs REAL NOT NULL CHECK (lufs BETWEEN -40 AND -5),
    dbtp REAL NOT NULL CHECK (dbtp BETWEEN -12 AND 0),
    tolerance_lu REAL NOT NULL CHECK (tolerance_lu BETWEEN 0 AND 10),
    source TEXT NOT NULL CHECK (length(source) <= 300),
    created_at TEXT NOT NULL
) STRICT;
CREATE TABLE upload (
    token TEXT PRIMARY KEY,
    project_id INTEGER NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    size_bytes INTEGER NOT NULL CHECK (size_bytes >= 0),
    at_n INTEGER NOT NULL CHECK (at_n >= 0),
    created_at TEXT NOT NULL
, more TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(more))) STRICT;
CREATE INDEX lane_of_project ON lane (project_id, position);
CREATE INDEX clip_of_lane ON clip (lane_id, start_n);
CREATE INDEX clip_of_media ON clip (media_id);
CREATE INDEX edit_of_project ON edit (project_id, undone, id);
CREATE INDEX marker_of_project ON marker (project_id, time_n);
CREATE INDEX job_of_project ON job (project_id, state);
CREATE INDEX speech_pin_of_project ON speech_pin (project_id, id);
CREATE INDEX dip_pin_of_project ON dip_pin (project_id, id);
CREATE INDEX point_pin_of_project ON point_pin (project_id, id);
COMMIT;
