"""The walk: which fixtures a crew goes to, in which order, and what a mark for many of them would
claim."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.record import Prep
from fence.core.model.show import Position, Show
from fence.core.model.standing import AGAIN, DONE, Standing, State, state_of, states_of
from fence.core.model.text import counted, joined
from fence.core.model.wiring import wiring_of

NOWHERE = Position("no position")
"""What fixtures without a position hang at."""


@dataclass(frozen=True, slots=True)
class Station:
    """A fixture on the walk and how it stands."""

    fixture: Fixture
    state: State


@dataclass(frozen=True, slots=True)
class Place:
    """A position on the walk: who hangs there, along the line, and how many are done."""

    position: Position
    stops: tuple[Station, ...]
    standing: Standing

    @property
    def name(self) -> str:
        """The name as fixtures bear it; empty for those that hang nowhere."""
        return "" if self.position is NOWHERE else self.position.name

    @property
    def open(self) -> int:
        """How many are still to be set, or again."""
        return sum(1 for stop in self.stops if stop.state not in DONE)


@dataclass(frozen=True, slots=True)
class Walk:
    """First those that somebody has to go back to, then position by position. The first ones stand
    in both."""

    first: tuple[Station, ...]
    places: tuple[Place, ...]
    standing: Standing

    @property
    def along(self) -> tuple[Station, ...]:
        """All stops in the order of the walk, each once."""
        stops = [stop for place in self.places for stop in place.stops]
        again = {stop.fixture.id for stop in self.first}
        rest = [stop for stop in stops if stop.fixture.id not in again] if again else stops
        return (*self.first, *rest)

    def after(self, fixture_id: int | None) -> Fixture | None:
        """The next fixture that is not done after this one, from the start again at the end; None
        when all are."""
        return next(iter(self.ahead(fixture_id, 1)), None)

    def ahead(self, fixture_id: int | None, most: int) -> tuple[Fixture, ...]:
        """Up to ``most`` fixtures that are not done, in the order in which ``after`` leads from one
        to the next."""
        along = self.along
        ids = [stop.fixture.id for stop in along]
        at = ids.index(fixture_id) + 1 if fixture_id in ids else 0
        open_ones = [stop.fixture for stop in (*along[at:], *along[:at]) if stop.state not in DONE]
        return tuple([fixture for fixture in open_ones if fixture.id != fixture_id][:most])


def walk(show: Show, at: str | None = None) -> Walk:
    """The walk through a show, or through one position (by name; "" for those that hang nowhere).

    Positions come in the order that was chosen, the others after them as the show lists them.
    Within a position fixtures come along their lines; those that hang on none after them, as the
    rig list runs. Those at which nothing can be set are left out.
    """
    return _walk(show, at) if at is not None else _whole_walk(show)


@once_a_show
def _whole_walk(show: Show) -> Walk:
    return _walk(show, None)


def _walk(show: Show, at: str | None) -> Walk:
    by_place: dict[str, list[Station]] = {}
    states = states_of(show)
    for fixture in along_the_cable(show):
        state = states[fixture.id]
        if (at is None or fixture.position == at) and state is not State.UNPLANNED:
            by_place.setdefault(fixture.position, []).append(Station(fixture, state))
    known = {position.name: position for position in show.positions}
    places = []
    for name in places_in_order(show):
        if stops := by_place.get(name):
            standing = Standing(Counter(stop.state for stop in stops))
            places.append(Place(known.get(name, NOWHERE), tuple(stops), standing))
    again = tuple(stop for place in places for stop in place.stops if stop.state in AGAIN)
    here: Counter[State] = Counter()
    for place in places:
        here.update(place.standing.counts)
    return Walk(again, tuple(places), Standing(here))


@once_a_show
def along_the_cable(show: Show) -> Sequence[Fixture]:
    """All fixtures, line by line from the source on, then those on no line in the order of the
    rig."""
    if not show.lines:
        return show.fixtures
    hung = (stop.fixture for line in show.lines for stop in wiring_of(line).behind(None))
    place = {fixture_id: at for at, fixture_id in enumerate(dict.fromkeys(hung))}
    return tuple(sorted(show.fixtures, key=lambda fixture: place.get(fixture.id, len(place))))


def places_in_order(show: Show) -> list[str]:
    """The names of the positions in the order of the walk; "" (no position) is the last."""
    named = [position.name for position in show.positions]
    chosen = [name for name in show.walk if name in set(named)]
    return list(dict.fromkeys([*chosen, *named, ""]))


def moved_by(show: Show, name: str, by: int) -> list[str]:
    """The order of the walk with one position earlier (-1) or later (+1)."""
    order = [known for known in places_in_order(show) if known]
    if name in order:
        at = order.index(name)
        order.insert(min(max(at + by, 0), len(order) - 1), order.pop(at))
    return order


def height_words(position: Position) -> str:
    """How high a position is, in words; empty where nobody knows."""
    if position.height is None:
        words = ""
    elif abs(position.height) < 0.05:
        words = "on the ground"
    else:
        words = f"{abs(position.height):g} m {'up' if position.height > 0 else 'down'}"
    return ", ".join(filter(None, (words, "hard to reach" if position.hard else "")))


@dataclass(frozen=True, slots=True)
class Claim:
    """What marking several fixtures as set would claim: of how many, and of which it would not be
    believed at once."""

    claimed: tuple[Fixture, ...]
    done: tuple[Fixture, ...]
    doubted: tuple[Fixture, ...]


def claim(show: Show, fixtures: Sequence[Fixture]) -> Claim:
    """What "all of these are set as planned" would claim.

    ``done`` are known to be set already. ``doubted`` said something else when they were read last.
    """
    states = [(fixture, state_of(show, fixture)) for fixture in fixtures]
    open_ones = tuple(
        f for f, state in states if state not in DONE and state is not State.UNPLANNED
    )
    return Claim(
        open_ones,
        tuple(f for f, state in states if state in DONE),
        tuple(f for f, state in states if state is State.DIFFERS),
    )


@dataclass(frozen=True, slots=True)
class SameForAll:
    """Alike fixtures at one place that take the same step: what it is, and who has not had it."""

    step: Prep
    words: str
    fixtures: tuple[Fixture, ...]
    left: tuple[Fixture, ...]

    @property
    def kind(self) -> str:
        """Who they are, such as ``6 × Fern 1 to Fern 6, 8 channel``."""
        first, last = self.fixtures[0], self.fixtures[-1]
        return f"{len(self.fixtures)} × {first.label} to {last.label}, {first.mode}"


@dataclass(frozen=True, slots=True)
class Again:
    """Whom a change of the plan sends somebody to once more: fixtures that are set, and would have
    to be set again."""

    fixtures: tuple[Fixture, ...]
    places: tuple[str, ...]

    @property
    def words(self) -> str:
        """How many, where and how high, as a sentence; empty for none."""
        if not self.fixtures:
            return ""
        many = counted(len(self.fixtures), "fixture that is set", "fixtures that are set")
        return f"{many} would have to be set again: {self._where}."

    @property
    def told(self) -> str:
        """The same once the change is made."""
        has = "fixture has", "fixtures have"
        return (
            f"{counted(len(self.fixtures), *has)} to be set again: {self._where}."
            if self.fixtures
            else ""
        )

    @property
    def _where(self) -> str:
        return joined(list(self.places), most=5, shown=4)


def again(before: Show, after: Show) -> Again:
    """The fixtures that stand as planned in ``before`` and would not in ``after``, place by
    place."""
    later = after.fixture_by_id
    found = [
        fixture
        for fixture in (before.fixtures[index] for index in before.occupancy.recorded)
        if fixture.id in later
        and later[fixture.id] is not fixture
        and state_of(before, fixture) in DONE
        and state_of(after, later[fixture.id]) in AGAIN
    ]
    heights = {position.name: height_words(position) for position in after.positions}
    places = []
    for name in places_in_order(after):
        here = sum(1 for fixture in found if later[fixture.id].position == name)
        if here:
            high = f" ({heights[name]})" if heights.get(name) else ""
            places.append(f"{here} at {name}{high}" if name else f"{here} without a position")
    return Again(tuple(found), tuple(places))
