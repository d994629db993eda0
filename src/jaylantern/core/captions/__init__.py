"""Captions on the timeline: where each stands now, and how they agree with the talk."""
