"""Lists on paper."""
