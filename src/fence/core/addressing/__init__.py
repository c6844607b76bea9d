"""Computing addresses: the schools of layout, the repair of a rig, mends of a finding, trials,
moves, sheets."""
