"""Saving shows: tables, the log of differences, undo and redo."""
