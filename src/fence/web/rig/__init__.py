"""The rig pages."""
