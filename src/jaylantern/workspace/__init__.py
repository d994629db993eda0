"""A data folder at work."""
