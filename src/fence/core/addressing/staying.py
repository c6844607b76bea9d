"""Who moves as one, what it costs, and who may stay where they are: the exact part of the repair.

In each universe the runs that can stay are a set of intervals without overlap; the heaviest such
set is weighted interval scheduling.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import chain
from operator import itemgetter

from fence.core.addressing.seating import Unit
from fence.core.model.address import SLOTS, Run, bits_of
from fence.core.model.fixture import Fixture
from fence.core.model.looks import Looks
from fence.core.model.occupancy import Span, slots_of
from fence.core.model.sharing import Alike, alike
from fence.core.model.show import Show
from fence.core.model.space import reserved_bits
from fence.core.model.standing import as_planned
from fence.core.model.text import from_to

PLANNED, SET, HARD, WILLING, EDITED = 100, 400, 3, 1, 99
"""What it costs to move a fixture: one that is merely planned; one that was set as the plan says;
how many times more at a position that is hard to reach; one of which a person said that it may
move; one that was just edited, which is to be set anew anyway: of two ways with as many moves the
one that moves it is taken."""


@dataclass(slots=True)
class Plan:
    """Who stays and who must move, and why; strays rejoin the rest of their sharing group; what is
    ``stuck`` is pinned where it cannot stand.

    Only what may be in trouble is made a unit: ``stays`` are the slots of all that stay in each
    universe, ``untouched`` the spans of those that nothing speaks against.
    """

    keep: list[Unit] = field(default_factory=list)
    move: list[Unit] = field(default_factory=list)
    strays: list[Unit] = field(default_factory=list)
    stuck: list[Unit] = field(default_factory=list)
    why: dict[Unit, str] = field(default_factory=dict)
    stays: dict[int, int] = field(default_factory=dict)
    untouched: dict[int, list[Span]] = field(default_factory=dict)

    def take_in(self, part: Plan) -> None:
        """Add what was planned of one universe."""
        self.keep += part.keep
        self.move += part.move
        self.strays += part.strays
        self.stuck += part.stuck
        self.why.update(part.why)
        self.stays.update(part.stays)
        self.untouched.update(part.untouched)


class Units:
    """Makes units of spans, with what it costs to move them: ``willing`` fixtures the least, those
    that were just ``edited`` less than others; those that are ``held`` are as if pinned."""

    def __init__(
        self,
        show: Show,
        willing: Collection[int] = (),
        edited: Collection[int] = (),
        held: Collection[int] = (),
    ) -> None:
        self.show, self.willing, self.edited, self.held = show, willing, edited, held
        self.homes = self._homes()
        self.setters = {profile.id: profile.setter for profile in show.profiles}

    def made_of(self, universe: int, spans: Iterable[Span]) -> list[Unit]:
        """The parts that take spans of one universe, in show order, each with those who share
        it."""
        groups: dict[tuple[Alike, int, Run], Unit] = {}
        units: list[Unit] = []
        for first, last, index, part in sorted(spans, key=itemgetter(2, 3)):
            fixture = self.show.fixtures[index]
            run = Run(universe, first, last - first + 1)
            weight, setter = self._weight(fixture), self.setters[fixture.profile]
            unit = Unit((fixture.id,), part, run, setter, self._pinned(fixture), weight, run)
            if fixture.share:
                key = (alike(fixture), part, run)
                if (whole := groups.get(key)) is not None:
                    whole.members += unit.members
                    whole.pinned |= unit.pinned
                    whole.weight += unit.weight
                    continue
                groups[key] = unit
                unit.home = self.homes[alike(fixture), part]
            units.append(unit)
        return units

    def costs(self, spans: Iterable[Span]) -> tuple[tuple[int, bool], ...]:
        """What is said here of the fixtures that take spans, in show order: what moving each costs,
        and whether it is pinned."""
        in_order = sorted(spans, key=itemgetter(2, 3))
        fixtures = [self.show.fixtures[index] for _, _, index, _ in in_order]
        return tuple([(self._weight(fixture), self._pinned(fixture)) for fixture in fixtures])

    def _pinned(self, fixture: Fixture) -> bool:
        return fixture.pinned or fixture.id in self.held

    def _homes(self) -> dict[tuple[Alike, int], Run]:
        """Where most of each sharing group stand; a pinned member decides."""
        votes: dict[tuple[Alike, int], dict[Run, int]] = {}
        for index in chain.from_iterable(self.show.occupancy.groups.values()):
            fixture = self.show.fixtures[index]
            for placed in self.show.runs_of(fixture):
                group = votes.setdefault((alike(fixture), placed.part), {})
                more = 10_000 if self._pinned(fixture) else 1
                group[placed.run] = group.get(placed.run, 0) + more
        return {key: max(runs, key=lambda run: runs[run]) for key, runs in votes.items()}

    def _weight(self, fixture: Fixture) -> int:
        """What it costs to move a fixture."""
        if fixture.id in self.edited:
            return EDITED
        if fixture.id in self.willing:
            return WILLING
        weight = SET if as_planned(self.show, fixture) else PLANNED
        return weight * HARD if fixture.position in self.show.hard_positions else weight


_PARTS = Looks[Plan]()


def plan_of(show: Show, units: Units) -> Plan:
    """Universe by universe who stays and who must move."""
    plan = Plan()
    look = _PARTS.begin()
    odd = set(show.occupancy.unsettable)
    sharing = set(chain.from_iterable(show.occupancy.groups.values()))
    for universe, spans in sorted(show.occupancy.spans.items()):
        troubled = _troubled(show, universe, spans)
        if odd or sharing:
            troubled.update(span for span in spans if span[2] in sharing or span[2:] in odd)
        if not troubled:
            plan.untouched[universe] = spans
            plan.stays[universe] = show.taken_in(universe)
            continue
        work = partial(_part_of, show, universe, spans, troubled, units)
        if sharing and any(span[2] in sharing for span in troubled):
            part = work()  # others of the group may stand elsewhere
        else:
            reserved = reserved_bits(show, universe)
            key = (universe, reserved, units.costs(troubled))
            part = look.at(key, (spans, show.desk), work)
        plan.take_in(part)
    return plan


def _part_of(
    show: Show, universe: int, spans: Sequence[Span], troubled: Collection[Span], units: Units
) -> Plan:
    """The plan of one universe."""
    part = Plan()
    part.untouched[universe] = [span for span in spans if span not in troubled]
    keep = _choose(show, universe, units.made_of(universe, troubled), part)
    if keep or part.untouched[universe]:
        alone = show.taken_in(universe) & ~slots_of(troubled)
        part.stays[universe] = alone | _bits(keep)
    return part


def _troubled(show: Show, universe: int, spans: Sequence[Span]) -> set[Span]:
    """The spans that may have to give way: those that meet others or reserved slots, run past the
    end, or are on a desk that does not reach all slots."""
    desk = show.desk
    sent = desk.universes is None or universe <= desk.universes
    if not sent or desk.page is not None or desk.highest < SLOTS:
        return set(spans)
    found = set(chain.from_iterable(show.occupancy.heaps.get(universe, ())))
    if reserved := reserved_bits(show, universe):
        found.update(span for span in spans if slots_of([span]) & reserved)
    return found


def _choose(show: Show, universe: int, units: Sequence[Unit], plan: Plan) -> list[Unit]:
    """Who may stay in a universe: the pinned, and the heaviest set without overlap among the
    rest."""
    pinned = [unit for unit in units if unit.pinned]
    walls = _Walls(show, universe, _bits(pinned), reserved_bits(show, universe))
    candidates: list[Unit] = []
    plan.stuck += _stuck(show, universe, pinned)
    for unit in units:
        if unit.pinned:
            continue
        if unit.run != unit.home:
            plan.strays.append(unit)
            plan.why[unit] = "It joins the rest of its sharing group."
        elif reason := walls.forbid(unit):
            plan.move.append(unit)
            plan.why[unit] = reason
        else:
            candidates.append(unit)
    keep, drop = heaviest_without_overlap(candidates)
    keep = [*pinned, *keep]
    plan.keep += keep
    plan.move += drop
    if not drop:
        return keep
    ordered = sorted(keep, key=lambda unit: unit.run.first)
    firsts = [unit.run.first for unit in ordered]
    for unit in drop:
        other = ordered[bisect_right(firsts, unit.run.last) - 1]
        plan.why[unit] = f"{called(show, other)} keeps {span(other.run)}."
    return keep


def _stuck(show: Show, universe: int, pinned: Sequence[Unit]) -> list[Unit]:
    """Those of the pinned of a universe that cannot stand where they are, or stand on another
    one."""
    walls = _Walls(show, universe, 0, reserved_bits(show, universe))
    held, found = 0, []
    for unit in pinned:
        own = bits_of(unit.run.first, unit.run.length)
        if held & own or walls.forbid(unit):
            found.append(unit)
        held |= own
    return found


@dataclass(frozen=True, slots=True)
class _Walls:
    """What forbids a place in a universe, whatever other fixtures that may move do."""

    show: Show
    universe: int
    pinned: int
    reserved: int

    def forbid(self, unit: Unit) -> str:
        """Why a unit cannot stay, as a sentence; empty where it can."""
        run, desk = unit.run, self.show.desk
        limit, page = desk.universes, desk.page
        last = run.first + run.length - 1
        lowest, highest = unit.setter.settable if unit.setter else (1, SLOTS)
        if last > SLOTS:
            return f"It ran {run.past_end} past the end."
        if not lowest <= run.first <= highest:
            return f"It cannot be set to {run.first}."
        if limit is not None and self.universe > limit:
            return f"The desk sends universes 1 to {limit}."
        if self.pinned or self.reserved:
            own = bits_of(run.first, run.length)
            if own & self.pinned:
                return "A pinned fixture holds its place."
            if own & self.reserved:
                return "It covers reserved slots."
        if last > desk.highest or (
            page is not None and ((run.first - 1) % page or run.length > page)
        ):
            return "The desk cannot reach it there."
        return ""


def heaviest_without_overlap(units: Sequence[Unit]) -> tuple[list[Unit], list[Unit]]:
    """Split into the heaviest set of runs without overlap, and the rest (weighted interval
    scheduling).

    Of equally heavy sets one with longer runs is kept: what has to move is then easier to place.
    """
    ordered = sorted(units, key=lambda unit: (unit.run.first + unit.run.length, unit.run.first))
    ends = [unit.run.first + unit.run.length for unit in ordered]
    best: list[tuple[int, int]] = [(0, 0)]
    before = []
    for place, unit in enumerate(ordered):
        run = unit.run
        free_until = bisect_right(ends, run.first, hi=place)
        before.append(free_until)
        weight, length = best[free_until]
        with_it = (weight + unit.weight, length + run.length)
        best.append(with_it if with_it > best[place] else best[place])
    keep, drop = [], []
    place = len(ordered)
    while place:
        unit = ordered[place - 1]
        if best[place] > best[place - 1]:
            keep.append(unit)
            drop += ordered[before[place - 1] : place - 1]
            place = before[place - 1]
        else:
            drop.append(unit)
            place -= 1
    return keep, drop


def _bits(units: Iterable[Unit]) -> int:
    bits = 0
    for unit in units:
        bits |= bits_of(unit.run.first, unit.run.length)
    return bits


def called(show: Show, unit: Unit) -> str:
    """What people call a unit: its first members."""
    return " and ".join(show.fixture_by_id[member].label for member in unit.members[:2])


def span(run: Run) -> str:
    """The slots of a run, such as ``12 to 18``."""
    return from_to(run.first, run.last)
