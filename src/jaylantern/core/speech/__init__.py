"""From a probability of voice to speech, and what it suggests."""
