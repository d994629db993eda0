"""Samples and what is measured of them."""
