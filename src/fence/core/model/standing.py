"""How a fixture stands: what the plan, what was set, what was read back and what was proven say
together.

Nothing of this is kept. It is computed from the four facts whenever it is asked for, so it is never
out of date.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import StrEnum

from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.patch import Patch
from fence.core.model.record import Proof, ReadBack, SetTo
from fence.core.model.show import Show

LONG_AGO = datetime.min.replace(tzinfo=UTC)
"""When a fact without a time happened."""


class State(StrEnum):
    """What is to be done at a fixture, or what is known of it."""

    UNPLANNED = "no address"
    TO_SET = "to set"
    SET = "set"
    RE_SET = "re-set"
    DIFFERS = "differs"
    PROVEN = "proven"
    STALE = "prove again"


DONE = frozenset({State.SET, State.PROVEN, State.STALE})
"""States of a fixture that stands as planned, as far as is known."""

AGAIN = frozenset({State.RE_SET, State.DIFFERS})
"""States of a fixture that somebody has to go back to."""


@dataclass(frozen=True, slots=True)
class Stands:
    """What a fixture stands in, as far as is known: "" for an unknown mode, None for what is
    unknown of a part.

    What its display said has no universe: a fixture does not know on which cable it hangs.
    """

    mode: str
    slots: tuple[int | None, ...]
    universes: tuple[int | None, ...]

    def agrees(self, mode: str, patch: tuple[Patch, ...]) -> bool:
        """Whether it is, in all that is known of it, what ``mode`` and ``patch`` say."""
        if self.mode not in ("", mode):
            return False
        slots, universes = _filled(self.slots, len(patch)), _filled(self.universes, len(patch))
        return all(
            slot in (None, entry.slot) and universe in (None, entry.universe)
            for slot, universe, entry in zip(slots, universes, patch, strict=True)
        )


def _filled(numbers: tuple[int | None, ...], parts: int) -> tuple[int | None, ...]:
    return (*numbers[:parts], *[None] * (parts - len(numbers)))


def stands(fixture: Fixture) -> Stands | None:
    """What the fixture stands in by the newest of the facts; None while there is none.

    A reading tells only what was read: the rest is taken from what was set or proven before it.
    """
    last = newest(fixture)
    if isinstance(last, ReadBack):
        older = _newer(fixture.set_to, fixture.proven)
        if older is None:
            return Stands(last.mode, last.says, (None,) * len(last.says))
        slots = _filled(last.says, len(older.patch))
        known = tuple(
            entry.slot if slot is None else slot
            for slot, entry in zip(slots, older.patch, strict=True)
        )
        return Stands(last.mode or older.mode, known, (None,) * len(known))
    if last is None:
        return None
    return Stands(
        last.mode, tuple(e.slot for e in last.patch), tuple(e.universe for e in last.patch)
    )


def stands_words(fixture: Fixture) -> str:
    """What a fixture stands in: its addresses, and its mode where that is not the planned one;
    empty if unknown."""
    known = stands(fixture)
    if known is None:
        return ""
    numbers = [
        f"{slot:03d}" if universe is None else str(Patch(universe, slot))
        for slot, universe in zip(known.slots, known.universes, strict=True)
        if slot is not None
    ]
    mode = known.mode if known.mode not in ("", fixture.mode) else ""
    return ", ".join(filter(None, (" + ".join(numbers), mode)))


def hangs_words(fixture: Fixture) -> str:
    """How a fixture hangs, as far as somebody has said."""
    if fixture.turned:
        return "hangs upside down"
    return "hangs upright" if fixture.upright else "hangs nobody says how"


def when(fact: SetTo | ReadBack | Proof | None) -> datetime:
    """When a fact was recorded; long ago where nobody knows."""
    return fact.by.at if fact is not None and fact.by.at is not None else LONG_AGO


def newest(fixture: Fixture) -> SetTo | ReadBack | Proof | None:
    """The newest fact. Of those of one moment the reading says most, then the proof."""
    facts = [
        fact for fact in (fixture.read_back, fixture.proven, fixture.set_to) if fact is not None
    ]
    return max(facts, key=when, default=None)


def _newer(set_to: SetTo | None, proven: Proof | None) -> SetTo | Proof | None:
    if set_to is None or proven is None:
        return set_to or proven
    return set_to if when(set_to) > when(proven) else proven


def planned_for(show: Show, fixture: Fixture) -> bool:
    """Whether the plan says all that is needed to set it: a mode that is there, an address for each
    part with slots."""
    widths = show.footprints_of(fixture)
    if len(widths) == 1:  # nearly all, and every page asks this of every fixture
        return widths[0] > 0 and fixture.patch[0].slot is not None
    return any(widths) and all(
        entry.slot is not None for width, entry in zip(widths, fixture.patch, strict=False) if width
    )


def _untouched(fixture: Fixture) -> bool:
    """Whether nobody has set it, read it or proven it."""
    return fixture.set_to is None and fixture.read_back is None and fixture.proven is None


def state_of(show: Show, fixture: Fixture) -> State:
    """What is to be done at a fixture, or what is known of it."""
    if _untouched(fixture):
        return State.TO_SET if planned_for(show, fixture) else State.UNPLANNED
    if not planned_for(show, fixture):
        return State.UNPLANNED
    known = stands(fixture)
    if known is None or not known.agrees(fixture.mode, fixture.patch):
        last = newest(fixture)
        wrong = isinstance(last, ReadBack) and not _was_right(last)
        return State.DIFFERS if wrong else State.RE_SET
    if fixture.proven is None:
        return State.SET
    proof = fixture.proven
    holds = (proof.mode, proof.patch) == (fixture.mode, fixture.patch)
    holds = holds and proof.way in (0, show.way_in.get(fixture.id, 0))
    return State.PROVEN if holds and when(proof) >= when(fixture.set_to) else State.STALE


@once_a_show
def states_of(show: Show) -> Mapping[int, State]:
    """The state of every fixture, by its id. Nearly all of a large rig are planned and nobody has
    been at them yet, which is seen without asking."""
    taking = show.occupancy
    asked = {*range(len(show.fixtures))} - taking.placed
    asked.update(taking.unplaced, taking.recorded)
    states = dict.fromkeys(show.fixture_by_id, State.TO_SET)
    for index in asked:
        fixture = show.fixtures[index]
        states[fixture.id] = state_of(show, fixture)
    return states


def _was_right(read: ReadBack) -> bool:
    """Whether a reading agreed with the plan of its time."""
    return Stands(read.mode, read.says, (None,) * len(read.says)).agrees(
        read.planned_mode, read.planned
    )


def as_planned(show: Show, fixture: Fixture) -> bool:
    """Whether it is known to stand as the plan says."""
    return not _untouched(fixture) and state_of(show, fixture) in DONE


@dataclass(frozen=True, slots=True)
class Standing:
    """How many fixtures are in each state. Those that nothing can be set at yet are not counted in
    ``of``."""

    counts: Counter[State]

    @property
    def of(self) -> int:
        """All that can be set."""
        return sum(self.counts.values()) - self.counts[State.UNPLANNED]

    @property
    def done(self) -> int:
        """Those that stand as planned."""
        return sum(self.counts[state] for state in DONE)

    @property
    def proven(self) -> int:
        """Those that answered as they should, and were not touched since."""
        return self.counts[State.PROVEN]

    @property
    def again(self) -> int:
        """Those that somebody has to go back to."""
        return sum(self.counts[state] for state in AGAIN)

    @property
    def words(self) -> str:
        """The count as it stands in the steps of the work."""
        return f"{self.done} of {self.of} set" if self.of else "nothing to set"


@once_a_show
def standing_of(show: Show) -> Standing:
    """Count the states of a show's fixtures."""
    return Standing(Counter(states_of(show).values()))
