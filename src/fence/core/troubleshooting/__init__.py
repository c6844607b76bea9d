"""From what is seen to what is wrong: the causes that a rig allows, how likely each is, and the
check that tells most for the least time."""
