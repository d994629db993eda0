"""Who gives way to whom, when, by how much, and what it is worth."""
