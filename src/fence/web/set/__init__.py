"""The Set step: at the fixtures, with a phone in hand."""
