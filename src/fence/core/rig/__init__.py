"""What fixtures do with a frame."""
