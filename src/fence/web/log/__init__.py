"""The log: every change in words, moments with names, two moments beside each other, and going
back."""
