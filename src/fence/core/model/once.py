"""What is worked out of a show once, and kept with it: a show never changes."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar

from fence.core.model.show import Show

P = ParamSpec("P")
T = TypeVar("T")

MOST_KEPT = 4
"""Answers of one function that are kept with a show: the latest."""


def once_a_show(work: Callable[Concatenate[Show, P], T]) -> Callable[Concatenate[Show, P], T]:
    """Remember what a function makes of each show, as long as that show is there; where it is
    given more than the show, for the latest few of these, which must be hashable.

    What it makes is shared by all who ask, so it must be of values that nobody changes. What it
    raises is not remembered.
    """

    @wraps(work)
    def remembered(show: Show, /, *args: P.args, **kwargs: P.kwargs) -> T:
        known: OrderedDict[object, T] = show.worked_out.get(work) or show.worked_out.setdefault(
            work, OrderedDict()
        )
        key = (args, tuple(kwargs.items())) if args or kwargs else None
        try:
            return known[key]
        except KeyError:
            pass
        found = known[key] = work(show, *args, **kwargs)
        if len(known) > MOST_KEPT:
            known.popitem(last=False)
        return found

    return remembered
