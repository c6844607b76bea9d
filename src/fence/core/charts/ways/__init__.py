"""Other ways in which a text may be meant, by what they are about."""
