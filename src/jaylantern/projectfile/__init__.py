"""Projects as files: archives, foreign timelines, backups."""
