"""Fixture types as files of the standard [DIN SPEC 15800]: read into charts, and written."""
