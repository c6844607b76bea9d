"""Edits from show to show, what lies between two shows, and two edits put together."""
