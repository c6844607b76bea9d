"""The findings pages."""
