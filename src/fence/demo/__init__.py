"""The demo shows."""

from __future__ import annotations

from fence.demo.glasshouse import CLEAN_NAME, NAME, clean_show, demo_show

__all__ = ["CLEAN_NAME", "NAME", "clean_show", "demo_show"]
