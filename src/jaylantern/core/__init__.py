"""Rules and computation: arrays and frozen dataclasses in and out, no input or output, no interface."""
