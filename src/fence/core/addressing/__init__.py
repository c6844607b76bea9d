"""Computing addresses: the schools of layout, the repair of a rig, mends of a finding, trials, moves, sheets."""

from __future__ import annotations

from fence.core.addressing.repair import MendOptions, Repair, RepairMove, mend_show
from fence.core.addressing.schools import Layout, Order, Placement, School, Spill, lay_out

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
