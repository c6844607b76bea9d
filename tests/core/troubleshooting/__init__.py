"""Tests of the rooms of the same name."""
