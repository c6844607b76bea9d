"""The charts pages."""
