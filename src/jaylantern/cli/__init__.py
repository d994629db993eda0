"""The command line, on the same core as the pages."""
