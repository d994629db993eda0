"""What has nothing to do with sound: files that are whole or not there, zip files from anybody, memory, processes."""
