"""Two snapshots of a show beside each other, fixture by fixture; and going back to one of them as a
new edit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from operator import attrgetter

from fence.core.edits.difference import difference
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.standing import AGAIN, hangs_words, state_of
from fence.core.model.text import counted


class Kind(StrEnum):
    """What became of a fixture between two snapshots."""

    ADDED = "added"
    REMOVED = "removed"
    MOVED = "moved"
    MODE = "mode"
    CALLED = "called"
    HUNG = "hung"
    RECORD = "record"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Compared:
    """A fixture that differs: what became of it, in words too; whether at the second snapshot it
    has to be set again."""

    before: Fixture | None
    after: Fixture | None
    kinds: tuple[Kind, ...]
    words: str
    again: bool

    @property
    def label(self) -> str:
        """What it is called, last."""
        named = self.after or self.before
        return named.label if named else ""


@dataclass(frozen=True, slots=True)
class Comparison:
    """All that differs between two snapshots: fixtures in rig order, removed ones last, and the
    rest in words."""

    fixtures: tuple[Compared, ...]
    rest: tuple[str, ...]

    @property
    def again(self) -> int:
        """How many fixtures have to be set again."""
        return sum(one.again for one in self.fixtures)


def compare(before: Show, after: Show) -> Comparison:
    """What became of each fixture from one snapshot to the other, and what else changed."""
    old, new = before.fixture_by_id, after.fixture_by_id
    found = [
        _compared(held, fixture, state_of(after, fixture) in AGAIN)
        for fixture in after.fixtures
        if (held := old.get(fixture.id)) is not fixture and held != fixture
    ]
    found += [
        _compared(fixture, None, False) for fixture in before.fixtures if fixture.id not in new
    ]
    return Comparison(tuple(found), tuple(_rest(before, after)))


def _compared(before: Fixture | None, after: Fixture | None, again: bool) -> Compared:
    if before is None and after is not None:
        return Compared(
            None, after, (Kind.ADDED,), f"added, {after.mode} at {_place(after)}", again
        )
    if after is None and before is not None:
        return Compared(
            before, None, (Kind.REMOVED,), f"removed, was {before.mode} at {_place(before)}", again
        )
    assert before is not None
    assert after is not None
    told = list(_told(before, after))
    kinds = tuple(dict.fromkeys(kind for kind, _ in told)) or (Kind.OTHER,)
    words = ", ".join(words for _, words in told) or "its note or sharing"
    return Compared(before, after, kinds, words, again)


def _told(before: Fixture, after: Fixture) -> Iterator[tuple[Kind, str]]:
    yield from _told_of_the_plan(before, after)
    yield from _told_of_what_was_done(before, after)
    if before.pinned != after.pinned:
        yield Kind.OTHER, "pinned" if after.pinned else "no longer pinned"


def _told_of_the_plan(before: Fixture, after: Fixture) -> Iterator[tuple[Kind, str]]:
    if before.patch != after.patch:
        yield Kind.MOVED, f"from {_place(before)} to {_place(after)}"
    if before.profile != after.profile:
        yield Kind.MODE, f"of another type ({before.profile} to {after.profile})"
    if before.mode != after.mode:
        yield Kind.MODE, f"{before.mode} to {after.mode}"
    if before.label != after.label:
        yield Kind.CALLED, f"was {before.label}"
    if before.number != after.number:
        yield Kind.CALLED, f"number {_number(before)} to {_number(after)}"
    if before.position != after.position:
        yield (
            Kind.HUNG,
            f"hung at {after.position or 'no position'}, was at {before.position or 'none'}",
        )
    if (before.turned, before.upright) != (after.turned, after.upright):
        yield Kind.HUNG, hangs_words(after)
    if before.at != after.at:
        yield Kind.HUNG, f"hangs at {after.at.words}" if after.at else "hangs nobody knows where"
    if before.scene != after.scene:
        yield Kind.OTHER, "what its scene says of it"


def _told_of_what_was_done(before: Fixture, after: Fixture) -> Iterator[tuple[Kind, str]]:
    if after.sign is not None and after.sign != before.sign:
        yield Kind.RECORD, after.sign.words
    for name, words in (("set_to", "set"), ("read_back", "read back"), ("proven", "proven")):
        if getattr(before, name) != getattr(after, name):
            yield Kind.RECORD, words if getattr(after, name) else f"not {words} after all"
    if (before.ticked, before.serial) != (after.ticked, after.serial):
        yield Kind.RECORD, "steps or serial number"


def _place(fixture: Fixture) -> str:
    return fixture.planned_at


def _number(fixture: Fixture) -> str:
    return "none" if fixture.number is None else str(fixture.number)


def _rest(before: Show, after: Show) -> Iterator[str]:
    """What differs beside the fixtures, in words."""
    found = difference(before, after)
    for changes, one, many in (
        (found.profiles, "chart", "charts"),
        (found.universes, "universe", "universes"),
        (found.positions, "position", "positions"),
        (found.lines, "line", "lines"),
        (found.boxes, "node", "nodes"),
    ):
        if changes:
            yield f"{counted(len(changes), one, many)} changed, added or removed"
    if found.reorder:
        yield "the rig list in another order"
    old, new = (
        found.heading.before if found.heading else None,
        found.heading.after if found.heading else None,
    )
    if old is None or new is None:
        return
    if old.name != new.name:
        yield f"the show was called {old.name}"
    names = (
        "desk",
        "note",
        "needs",
        "tell_tale",
        "walk",
        "skipped",
        "ground",
        "stock",
        "day",
        "net",
    )
    told = [name.replace("_", "-") for name in names if getattr(old, name) != getattr(new, name)]
    if told:
        yield f"of the show itself: {', '.join(told)}"


RECORDS = (
    "set_to",
    "read_back",
    "proven",
    "sign",
    "ticked",
    "serial",
    "turned",
    "upright",
)
"""What was done at a fixture and seen of it, which no plan takes back."""
_records = attrgetter(*RECORDS)


def _recorded_as(now: Fixture, earlier: Fixture) -> Fixture:
    """A fixture as it was planned earlier, with what is recorded of it now."""
    if now is earlier or _records(now) == _records(earlier):
        return earlier
    return replace(earlier, **dict(zip(RECORDS, _records(now), strict=True)))


def gone_back(current: Show, earlier: Show) -> Show:
    """The plan of an earlier snapshot as an edit of now.

    What was done at the fixtures and boxes since then was done, and stays noted for those that both
    snapshots have; ids that were given away are not given again.
    """
    held, boxes = current.fixture_by_id, {box.id: box for box in current.boxes}
    fixtures = tuple(
        _recorded_as(held[fixture.id], fixture) if fixture.id in held else fixture
        for fixture in earlier.fixtures
    )
    noted = tuple(
        replace(box, typed=boxes[box.id].typed, read=boxes[box.id].read) if box.id in boxes else box
        for box in earlier.boxes
    )
    return replace(
        earlier, fixtures=fixtures, boxes=noted, next_id=max(current.next_id, earlier.next_id)
    )
