"""How many examples a property is tried on: a few in `make test`, many in `make deep`."""

from __future__ import annotations

import os
from collections.abc import Sequence

from hypothesis import HealthCheck, settings

DEEP = int(os.environ.get("FENCE_DEEP", "1"))
"""How many times as many examples as usual."""
SHARE = 1.0 if DEEP > 1 else 0.6
"""How much of what is written at a property `make test` tries: each run tries others."""
FEWEST = 10
USUAL = 60


def tried(count: int) -> int:
    """How many random cases by number are tried where ``count`` is usual: the first third in `make
    test`, and ``DEEP`` times all of them in `make deep`."""
    return count * DEEP if DEEP > 1 else max(FEWEST, count // 3)


def examples(
    count: int, suppress_health_check: Sequence[HealthCheck] = (HealthCheck.too_slow,)
) -> settings:
    """The settings of a property that is tried on ``count`` examples as a rule."""
    most = max(FEWEST, int(count * DEEP * SHARE))
    return settings(max_examples=most, deadline=None, suppress_health_check=suppress_health_check)
