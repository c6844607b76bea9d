"""The Prove step: bring each fixture up, see what it does, read the cable."""
