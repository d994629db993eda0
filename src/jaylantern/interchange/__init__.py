"""Open formats, one a file."""
