"""The demo shows."""

from __future__ import annotations

from fence.demo.back_room import back_room
from fence.demo.glasshouse import (
    CLEAN_NAME,
    NAME,
    ON_SITE_NAME,
    clean_show,
    demo_show,
    on_site_show,
    on_site_steps,
)

__all__ = [
    "CLEAN_NAME",
    "NAME",
    "ON_SITE_NAME",
    "back_room",
    "clean_show",
    "demo_show",
    "on_site_show",
    "on_site_steps",
]
