"""The demo shows."""
