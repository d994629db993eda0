ALTER TABLE project ADD COLUMN removed_at TEXT;
