"""What is heard on the wire, by a thread that listens for a second while the page waits for
nothing."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from secrets import token_hex
from threading import Lock, Thread
from typing import Generic, TypeVar

from fence.core.model.errors import EditError, FenceError

MOST_LISTENERS = 8
"""Listeners at once."""
MOST_KEPT = 32

T = TypeVar("T")


@dataclass
class Listening(Generic[T]):
    """One listener: ``heard`` is what came of it once it is ``over``, ``problem`` why nothing
    did."""

    heard: T | None = None
    problem: str = ""
    over: bool = False


@dataclass
class Listeners(Generic[T]):
    """The listeners of all pages, by names that nobody guesses; the last ones are kept."""

    _held: OrderedDict[str, Listening[T]] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def begin(self, listen: Callable[[], T]) -> str:
        """Begin to listen, and give the name by which it is asked after. ``EditError`` where too
        many do."""
        name, made = token_hex(8), Listening[T]()
        with self._lock:
            if sum(not one.over for one in self._held.values()) >= MOST_LISTENERS:
                raise EditError(
                    "Many listen to the network at this moment: read again in some seconds."
                )
            self._held[name] = made
            over = [key for key, one in self._held.items() if one.over]
            for key in over[: max(0, len(self._held) - MOST_KEPT)]:
                del self._held[key]
        Thread(target=self._run, args=(made, listen), daemon=True, name="listening").start()
        return name

    def of(self, name: str) -> Listening[T] | None:
        """A listener by its name; None for one that is not kept any more."""
        with self._lock:
            return self._held.get(name)

    @staticmethod
    def _run(made: Listening[T], listen: Callable[[], T]) -> None:
        try:
            made.heard = listen()
        except FenceError as error:
            made.problem = str(error)
        except OSError as error:
            made.problem = f"The network cannot be listened to ({error.strerror})."
        finally:
            made.over = True
