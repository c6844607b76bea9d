"""Fence plans DMX addresses for a lighting rig, finds the clashes and offers the mend."""

__version__ = "0.1.0"
