"""The nouns of a project, each described once."""
