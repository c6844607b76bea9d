"""Computing addresses for many fixtures at once: the schools of layout, and the mend of a whole rig."""

from __future__ import annotations

from fence.core.layout.mend import Repair, RepairMove, mend_show
from fence.core.layout.schools import Layout, Placement, School, lay_out

__all__ = ["Layout", "Placement", "Repair", "RepairMove", "School", "lay_out", "mend_show"]
