"""Media in the data folder: taking a file in, its facts on disk, voice takes."""
