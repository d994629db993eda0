"""Builds the demo project."""
