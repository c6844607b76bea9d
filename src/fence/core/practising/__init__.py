"""Learning the job: drills from a rig, what to ask next, and hidden faults."""
