"""What is worked out part by part of a show, and kept as long as nothing of a part changes.

An edit of a show leaves nearly all of its values the same objects. So what was made of one line, or
of the fixtures of one universe, still holds in the show after the edit, unless one of these very
values is another one now.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Hashable
from operator import is_
from typing import Generic, TypeVar

T = TypeVar("T")

MOST = 4
"""Looks that are kept: those of a show, and of edits of it that are previews."""

Held = dict[Hashable, tuple[tuple[object, ...], T]]


class Looks(Generic[T]):
    """The last looks at shows, with what they found. Whoever looks begins with these."""

    def __init__(self) -> None:
        self._looks: deque[Held[T]] = deque(maxlen=MOST)

    def begin(self) -> Look[T]:
        """Begin a look; what it finds is known to those after it."""
        own: Held[T] = {}
        before = tuple(self._looks)
        self._looks.appendleft(own)
        return Look(own, before)


class Look(Generic[T]):
    """One look, part by part."""

    def __init__(self, own: Held[T], before: tuple[Held[T], ...]) -> None:
        self._own = own
        self._before = before

    def at(self, key: Hashable, made_of: tuple[object, ...], work: Callable[[], T]) -> T:
        """What ``work`` makes of these values, or has made before: they are the same where they
        are the very same objects, and keys where they are equal. It is shared by all who ask, so
        it must be a value that nobody changes."""
        for held in self._before:
            known = held.get(key)
            if (
                known is not None
                and len(known[0]) == len(made_of)
                and all(map(is_, known[0], made_of))
            ):
                self._own[key] = known
                return known[1]
        found = work()
        self._own[key] = made_of, found
        return found
