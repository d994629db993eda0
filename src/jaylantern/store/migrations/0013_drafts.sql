-- The draft that is held beside the present one, as JSON: one a project.

CREATE TABLE draft (
    project_id INTEGER PRIMARY KEY REFERENCES project (id) ON DELETE CASCADE,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
