"""Tests of talking with fixtures."""
