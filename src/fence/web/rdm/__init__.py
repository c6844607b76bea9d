"""Talking with the fixtures: who answers, setting them, letting them speak first, holding them."""
