"""Addresses on loopback that no other test uses at the same time: each worker has a network of its
own."""

from __future__ import annotations

import os
import re


def own(last: int) -> str:
    """An address of this worker, 1 to 250 as its last number."""
    worker = re.sub(r"\D", "", os.environ.get("PYTEST_XDIST_WORKER", "")) or "0"
    return f"127.130.{int(worker) % 250}.{last}"
