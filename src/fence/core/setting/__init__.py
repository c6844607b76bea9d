"""Setting fixtures: what a person does at them, and practice for it."""
