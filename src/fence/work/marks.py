"""Marks from a browser that may have been out of reach: each is taken once, and none is dropped."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from fence.core import edits
from fence.core.model.dates import written_time
from fence.core.model.errors import EditError
from fence.core.model.record import Witness
from fence.core.model.show import Show
from fence.core.model.text import printable
from fence.store.shows import SavedShow, ShowStore
from fence.work.saving import Check

LATE = timedelta(minutes=1)
"""From when on the log says that a mark has waited."""
LONGEST_WAIT = timedelta(days=14)
"""How old a mark may be that comes from out of reach; older ones count as that old."""


@dataclass(frozen=True, slots=True)
class Mark:
    """How a mark came: who made it and when, by which id it is sent, how long it has waited."""

    made: Witness
    origin: str
    sending: str
    waited: timedelta
    may: Check


def longest(seconds: float) -> timedelta:
    """How long a mark has waited, by what its browser says: nothing that cannot be."""
    return min(timedelta(seconds=seconds), LONGEST_WAIT) if 0 < seconds < 1e9 else timedelta()


def save_mark(store: ShowStore, before: SavedShow, after: Show, mark: Mark) -> SavedShow:
    """Save a mark: once, and over what others saved meanwhile, for it is what was done and seen.

    A mark that is older than what is known by now goes to the log only: ``EditError``.
    """
    late = mark.waited > LATE and mark.made.at is not None
    note = (
        f"Made at {mark.made.at.astimezone():%H:%M}, sent when back in reach."
        if (late and mark.made.at)
        else ""
    )
    return store.save(
        before,
        after,
        who=mark.made.who,
        origin=mark.origin,
        sending=mark.sending,
        note=note,
        last=mark.may,
        settle=only_newer if mark.waited else edits.in_order,
        over_all=True,
    )


def only_newer(current: Show, after: Show) -> Show:
    """What is written of a mark that has waited: only what nobody has said better since.

    ``EditError`` where that is nothing: the log keeps it then.
    """
    kept = edits.keep_newer(current, after)
    if kept == current != after:
        raise EditError("Something newer is known of it by now.")
    return kept


def tell(store: ShowStore, show_id: int, words: str, mark: Mark) -> SavedShow:
    """Write to the log what a mark said that could not be kept as one."""
    at = mark.made.at
    when = f" ({written_time(at)} UTC)" if at is not None and mark.waited else ""
    return store.tell(
        show_id,
        printable(words) + when,
        who=mark.made.who,
        origin=mark.origin,
        sending=mark.sending,
    )
