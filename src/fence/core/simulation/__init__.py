"""What fixtures do with a frame, and what a fixture must be from what is seen of it."""
