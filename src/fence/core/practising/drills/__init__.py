"""The drills: each makes questions of one kind, at three levels, from a rig."""
