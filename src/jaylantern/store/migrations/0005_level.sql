CREATE TABLE target (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    lufs REAL NOT NULL CHECK (lufs BETWEEN -40 AND -5),
    dbtp REAL NOT NULL CHECK (dbtp BETWEEN -12 AND 0),
    tolerance_lu REAL NOT NULL CHECK (tolerance_lu BETWEEN 0 AND 10),
    source TEXT NOT NULL CHECK (length(source) <= 300),
    created_at TEXT NOT NULL
) STRICT;
