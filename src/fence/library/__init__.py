"""The charts that ship with Fence: invented makers and models that span what a technician meets."""

from __future__ import annotations

from fence.library.charts import shipped_profiles

__all__ = ["shipped_profiles"]
