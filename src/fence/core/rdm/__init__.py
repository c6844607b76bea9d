"""Talking with fixtures on their own line [ANSI E1.20]: packets, discovery, what they say, setting
and holding them."""
