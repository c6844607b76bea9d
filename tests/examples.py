"""How many examples a property is tried on: a few in `make test`, many in `make deep`."""

from __future__ import annotations

import os
from collections.abc import Sequence

from hypothesis import HealthCheck, settings

DEEP = int(os.environ.get("FENCE_DEEP", "1"))
"""How many times as many examples as usual."""
USUAL = 60


def examples(
    count: int, suppress_health_check: Sequence[HealthCheck] = (HealthCheck.too_slow,)
) -> settings:
    """The settings of a property that is tried on ``count`` examples as a rule."""
    return settings(
        max_examples=count * DEEP, deadline=None, suppress_health_check=suppress_health_check
    )
