"""Fixture types of the standard."""
