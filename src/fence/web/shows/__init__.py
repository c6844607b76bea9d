"""The shows pages."""
