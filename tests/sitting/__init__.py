"""A user who never tires: random use of the real page with an oracle that says what must always hold."""
