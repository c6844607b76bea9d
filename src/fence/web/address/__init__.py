"""The address pages."""
