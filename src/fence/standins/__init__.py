"""The simulated outside: stand-ins for devices that a rig has and a desk does not."""
