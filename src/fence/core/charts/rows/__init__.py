"""The rules by which a row is read: each takes the sheet and a row, and says what the row is or None."""
