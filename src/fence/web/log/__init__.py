"""The log: every change in words, snapshots with names, two snapshots beside each other, and going
back."""
