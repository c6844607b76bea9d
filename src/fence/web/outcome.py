"""What an edit would do to the whole show, before it is made: the same for every preview."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

from fence.core.checks import Analysis, Finding, Verdict, analyse, news_of_the_plan
from fence.core.edits.difference import difference
from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.space import free_bits
from fence.core.setting.walk import again
from fence.web.address.drawing import Card, draw_card

MOVES_LISTED = 200
CARDS_SHOWN = 12


@dataclass(frozen=True, slots=True)
class MoveLine:
    """A fixture that would stand elsewhere or in another mode. ``why`` may be empty."""

    fixture: Fixture
    before: str
    after: str
    mode: str
    why: str


@dataclass(frozen=True, slots=True)
class TouchedUniverse:
    """A universe that would look different: as it is, and as it would be."""

    before: Card
    after: Card


@dataclass(frozen=True, slots=True)
class Outcome:
    """A show beside what it would become."""

    before: Verdict
    after: Verdict
    moves: tuple[MoveLine, ...]
    more_moves: int
    stay: int
    changed: int
    added: int
    universes: tuple[int, int]
    channels: tuple[int, int]
    free: tuple[int, int]
    touched: tuple[TouchedUniverse, ...]
    more_touched: int
    new_findings: tuple[Finding, ...]
    again: str

    @property
    def changes(self) -> int:
        """How many fixtures would change or be new."""
        return self.changed + self.added


def outcome_of(
    before: Show, after: Show, now: Analysis, why: Mapping[int, str] | None = None
) -> Outcome:
    """Compare a show with what an edit makes of it. ``why`` explains moves by fixture id."""
    then = analyse(after)
    why = why or {}
    found = difference(before, after)
    used, uses = _in_use(before), _in_use(after)
    changed = [
        (c.before, c.after)
        for c in found.fixtures
        if c.before and c.after and _differs(c.before, c.after)
    ]
    moves = [
        MoveLine(
            new,
            old.planned_at,
            new.planned_at,
            f"{old.mode} → {new.mode}" if old.mode != new.mode else "",
            why.get(new.id, ""),
        )
        for old, new in changed
    ]
    new = [change.after for change in found.fixtures if change.before is None and change.after]
    landed = [MoveLine(f, "new", f.planned_at, f.mode, "") for f in new]
    touched = sorted(
        {
            entry.universe
            for change in found.fixtures
            for fixture in (change.before, change.after)
            if fixture is not None
            for entry in fixture.patch
            if entry.universe is not None
        }
    )
    return Outcome(
        now.verdict,
        then.verdict,
        tuple([*moves, *landed][:MOVES_LISTED]),
        max(0, len(moves) + len(landed) - MOVES_LISTED),
        len(before.fixtures) - len(moves),
        len(moves),
        len(landed),
        (used.universes, uses.universes),
        (used.taken, uses.taken),
        (used.free, uses.free),
        tuple(
            TouchedUniverse(_card(before, number, now), _card(after, number, then))
            for number in touched[:CARDS_SHOWN]
        ),
        max(0, len(touched) - CARDS_SHOWN),
        news_of_the_plan(now, then)[:6],
        again(before, after).words,
    )


def _differs(old: Fixture, new: Fixture) -> bool:
    return (old.patch, old.mode) != (new.patch, new.mode)


class _InUse(NamedTuple):
    """Universes with at least one taken slot, the taken slots of all of them, and the free ones."""

    universes: int
    taken: int
    free: int


@once_a_show
def _in_use(show: Show) -> _InUse:
    taken = show.taken
    return _InUse(
        len(taken),
        sum(bits.bit_count() for bits in taken.values()),
        sum(free_bits(show, number).bit_count() for number in taken),
    )


def _card(show: Show, number: int, analysis: Analysis) -> Card:
    return draw_card(show, number, analysis.stops_in.get(number, 0), analysis.stopped)
