"""Computing addresses for many fixtures at once: the schools of layout, and the mend of a whole rig."""

from __future__ import annotations

from fence.core.layout.mend import MendOptions, Repair, RepairMove, mend_show
from fence.core.layout.schools import Layout, Order, Placement, School, Spill, lay_out

__all__ = [
    "Layout",
    "MendOptions",
    "Order",
    "Placement",
    "Repair",
    "RepairMove",
    "School",
    "Spill",
    "lay_out",
    "mend_show",
]
