"""What can be done to a timeline: pure functions from a project to the project after the edit.

Each raises Refused in words where it can't be done, and NotFound where what it speaks of is gone. New numbers come
from `new_id`, a function that never gives the same one twice.
"""
