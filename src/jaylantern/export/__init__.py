"""What is handed off: sound, films, data, and the request that says which."""
