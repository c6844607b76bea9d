"""The web application."""
