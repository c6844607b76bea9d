"""Computing addresses: the schools of layout, the repair of a rig, mends of a finding, trials,
moves, sheets."""

from __future__ import annotations

from fence.core.addressing.repair import Repair, RepairMove, RepairOptions, repair_rig
from fence.core.addressing.schools import Layout, Order, Placement, School, Spill, lay_out

__all__ = [
    "Layout",
    "Order",
    "Placement",
    "Repair",
    "RepairMove",
    "RepairOptions",
    "School",
    "Spill",
    "lay_out",
    "repair_rig",
]
