"""What is worked out of a show once, and kept with it: a show never changes."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from fence.core.model.show import Show

T = TypeVar("T")


def once_a_show(work: Callable[[Show], T]) -> Callable[[Show], T]:
    """Remember what a function makes of each show, as long as that show is there.

    What it makes is shared by all who ask, so it must be of values that nobody changes.
    """

    @wraps(work)
    def remembered(show: Show) -> T:
        if work not in show.worked_out:
            show.worked_out[work] = work(show)
        found: T = show.worked_out[work]
        return found

    return remembered
