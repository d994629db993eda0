"""Weights of the two networks, as they were published; README.md says by whom and under which licence."""
