"""Planning the cable: which fixtures hang on which line in which order, with the fewest splitters
and then the least cable, within what one driver feeds and how long a cable may be.

A universe is planned in *units*: the fixtures of one position, as the rig list runs, in one piece
unless one driver cannot feed them. A section is a chain of units from its driver; a splitter at the
end of a chain drives more of them. Up to ``EXACT`` units the best plan is found by going through
all subsets, so that it is proven; beyond, a good one is built and bettered, and only the number of
splitters is held against a bound.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence, Set
from dataclasses import dataclass, replace
from functools import partial

from fence.core.checks.lines import LONG_LINE, LONG_RUN, MOST_LOADS
from fence.core.edits.cabling import ended, insert, nobody_waits
from fence.core.edits.records import free_name
from fence.core.lines.measure import AT_THE_DESK, SHORTEST, Spot, Tape
from fence.core.lines.seeking import EXACT, Branch, Sought, Task, seek
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.line import LONGEST_RUN, MOST_STOPS, Cable, Device, Line, Plug, Stop
from fence.core.model.looks import Looks
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.core.model.wiring import needs_adapter, wireless_only, wiring_of

NOT_KNOWN = 20
"""Metres that a cable run of unknown length counts while plans are compared."""
MOST_SOCKETS = 4
"""Sockets that one universe is given at most."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a plan keeps to: loads on a section, outputs of a splitter; ``anew`` without the lines
    that are there."""

    loads: int = MOST_LOADS
    outputs: int = 8
    anew: bool = False


@dataclass(frozen=True, slots=True)
class Unit:
    """Fixtures that hang one behind the other in any plan. ``inner`` metres lie between them,
    ``guessed`` where not all are known; ``long`` are its cable runs that are too long."""

    fixtures: tuple[int, ...]
    first: Spot
    last: Spot
    load: float
    inner: int
    long: int
    wireless: bool = False
    guessed: bool = False


@dataclass(frozen=True, slots=True)
class CablePlan:
    """A proposal: the show with it, which lines are new, and how good it is.

    ``proven`` when no plan of these units has fewer splitters or, with as many, less cable;
    ``fewest`` when at least the splitters are proven the fewest. ``remarks`` say what was assumed.
    """

    show: Show
    lines: tuple[int, ...]
    splitters: int
    metres: int
    proven: bool
    fewest: bool
    remarks: tuple[str, ...]


@once_a_show
def plan_cable(show: Show, wanted: Wanted) -> CablePlan:
    """Propose lines for the fixtures that hang on none, or for all ``anew``.

    Raises ``EditError`` where no fixture waits for a line, or the limits leave no room for one.
    """
    if not 2 <= wanted.loads <= MOST_LOADS:
        raise EditError(f"One driver feeds {MOST_LOADS} unit loads. Use 2 to {MOST_LOADS}.")
    if not 2 <= wanted.outputs <= 64:
        raise EditError("A splitter has 2 to 64 outputs.")
    base = show.with_lines(()) if wanted.anew else show
    waiting = _waiting(base)
    if not waiting:
        raise nobody_waits(show)
    tape = Tape(base)
    look = _SOUGHT.begin()
    found = {
        universe: look.at(
            (universe, wanted, tuple(tape.spots[fixture.id] for fixture in fixtures)),
            (base.profiles, base.ground, base.positions, *fixtures),
            partial(_sought, base, tape, fixtures, wanted),
        )
        for universe, fixtures in waiting.items()
    }
    free = (base.ground.sockets or 0) - len(base.lines) if base.ground.sockets else len(found)
    chosen = _share_sockets({u: rig.options for u, rig in found.items()}, free)
    fresh = _built(base, tape, found, chosen, wanted.outputs)
    remarks = _remarks(sum(line.unknown for line in fresh), len(found), free)
    return CablePlan(
        base.with_lines((*base.lines, *(built.line for built in fresh))),
        tuple(built.line.id for built in fresh),
        sum(built.splitters for built in fresh),
        round(sum(built.metres for built in fresh)),
        not remarks
        and all(rig.whole for rig in found.values())
        and all(sought.proven for sought in chosen.values()),
        all(sought.fewest for sought in chosen.values()),
        remarks,
    )


def _waiting(show: Show) -> dict[int, list[Fixture]]:
    """The fixtures on no line that take channels, by universe, as the rig list runs."""
    hung = {stop.fixture for line in show.lines for stop in line.stops}
    taking = show.occupancy
    indexes: dict[int, Set[int]] = {number: taking.placed_in(number) for number in taking.spans}
    for index in taking.unplaced:
        for universe in show.universes_of(show.fixtures[index]):
            indexes[universe] = indexes.get(universe, frozenset()) | {index}
    found = {}
    for universe, held in sorted(indexes.items()):
        fixtures = [show.fixtures[index] for index in sorted(held)]
        if hung:
            fixtures = [fixture for fixture in fixtures if fixture.id not in hung]
        if fixtures:
            found[universe] = fixtures
    return found


@dataclass(frozen=True, slots=True)
class _Rig:
    """What hangs in a universe, and the best plan of it with one socket, with two, and so on.
    ``whole`` where no position had to be divided."""

    units: list[Unit]
    options: list[Sought]
    whole: bool


_SOUGHT = Looks[_Rig]()


def _sought(show: Show, tape: Tape, fixtures: Sequence[Fixture], wanted: Wanted) -> _Rig:
    units = _units(show, tape, fixtures, wanted.loads)
    return _Rig(units, _options(show, tape, units, wanted), _whole(show, units))


def _units(show: Show, tape: Tape, fixtures: Sequence[Fixture], most: int) -> list[Unit]:
    """The units of a universe, in the order in which their positions come in the rig list."""
    by_wireless = []
    places: dict[str, list[tuple[Fixture, float]]] = {}
    for fixture in fixtures:
        profile = show.profile_of(fixture)
        if profile is not None and wireless_only(profile):
            by_wireless.append(fixture.id)
        else:
            load = profile.unit_load if profile else 1.0
            places.setdefault(fixture.position, []).append((fixture, load))
    units = (
        [Unit(tuple(by_wireless), AT_THE_DESK, AT_THE_DESK, 1, 0, 0, wireless=True)]
        if by_wireless
        else []
    )
    for held in places.values():
        for piece in _pieces(held, most):
            ids = tuple(fixture.id for fixture, _ in piece)
            spots = [tape.spots[fixture_id] for fixture_id in ids]
            known = [tape.run(one, other) for one, other in itertools.pairwise(spots)]
            runs = [NOT_KNOWN if metres is None else metres for metres in known]
            long = sum(metres > LONG_RUN for metres in runs)
            load = sum(load for _, load in piece)
            units.append(
                Unit(ids, spots[0], spots[-1], load, sum(runs), long, guessed=None in known)
            )
    return units


def _pieces(
    fixtures: Sequence[tuple[Fixture, float]], most: int
) -> list[list[tuple[Fixture, float]]]:
    """The fixtures of a position with their unit loads, in as few pieces as one driver feeds each,
    a load for a splitter left beside them."""
    total = sum(load for _, load in fixtures)
    if total <= most:
        return [list(fixtures)]
    pieces: list[list[tuple[Fixture, float]]] = []
    held = float(most)
    for fixture, load in fixtures:
        if held + load > most - 1:
            pieces.append([])
            held = 0
        pieces[-1].append((fixture, load))
        held += load
    return pieces


def _reckoned(tape: Tape, one: Spot, other: Spot) -> int:
    metres = tape.run(one, other)
    return NOT_KNOWN if metres is None else metres


def _options(show: Show, tape: Tape, units: Sequence[Unit], wanted: Wanted) -> list[Sought]:
    """The best plan of a universe with one socket, with two, and so on."""
    if heavy := next((unit for unit in units if unit.load > wanted.loads), None):
        label, load = show.fixture(heavy.fixtures[0]).label, f"{heavy.load:g}"
        raise EditError(
            f"{label} alone puts {load} unit loads on a line: allow at least so many on a section."
        )
    spots = [AT_THE_DESK, *(unit.last for unit in units)]
    runs = tuple(tuple(_reckoned(tape, spot, unit.first) for unit in units) for spot in spots)
    sockets = 1
    if show.ground.sockets:
        sockets = max(1, min(MOST_SOCKETS, len(units), show.ground.sockets))
    sizes = tuple((unit.load, unit.inner, unit.long) for unit in units)
    known = all(tape.run(spot, unit.first) is not None for spot in spots for unit in units)
    known = known and not any(unit.guessed for unit in units)
    # no limit is held by a guess
    limits = (LONG_RUN, LONG_LINE) if known else (LONGEST_RUN, LONGEST_RUN * MOST_STOPS)
    return [
        seek(Task(sizes, runs, wanted.loads, wanted.outputs, number, *limits))
        for number in range(1, sockets + 1)
    ]


def _share_sockets(found: dict[int, list[Sought]], sockets: int) -> dict[int, Sought]:
    """Which universe begins at how many sockets, so that all together cost the least. Each has one
    in any case."""
    spare = max(0, sockets - len(found))
    best: dict[int, tuple[int, dict[int, Sought]]] = {0: (0, {})}
    for universe, options in found.items():
        grown: dict[int, tuple[int, dict[int, Sought]]] = {}
        for used, (cost, chosen) in best.items():
            for more, sought in enumerate(options):
                total = used + more
                if total <= spare and (total not in grown or cost + sought.cost < grown[total][0]):
                    grown[total] = (cost + sought.cost, {**chosen, universe: sought})
        best = grown
    return min(best.values(), key=lambda entry: entry[0])[1]


@dataclass(frozen=True, slots=True)
class _New:
    """A line that a plan adds: its splitters, its metres of cable, its cable runs of unknown
    length."""

    line: Line
    splitters: int
    metres: float
    unknown: int


_NEW = Looks[_New]()


def _built(
    show: Show, tape: Tape, rigs: dict[int, _Rig], chosen: dict[int, Sought], outputs: int
) -> list[_New]:
    """The lines of the branches that were chosen, numbered and named as lines are that are added
    one by one."""
    look = _NEW.begin()
    number = max((line.id for line in show.lines), default=0)
    taken = {line.name for line in show.lines}
    alone = show.with_lines(())
    found = []
    for universe, sought in chosen.items():
        rig = rigs[universe]
        for branch in sought.branches:
            number += 1
            name = free_name(f"U{universe} {_begins(rig.units, branch)}".strip(), taken)
            taken.add(name)
            line = Line(number, name, universe)
            found.append(
                look.at(
                    line,
                    (rig, branch),
                    partial(_new, alone, tape, line, rig.units, branch, outputs),
                )
            )
    return found


def _new(
    show: Show, tape: Tape, line: Line, units: Sequence[Unit], branch: Branch, outputs: int
) -> _New:
    """The line of a branch from the source: stops, adapters where plugs do not meet,
    terminators. The show has no lines."""
    stops = _stops(tape, line.universe, units, branch, outputs)
    show = show.with_lines((replace(line, stops=tuple(stops)),))
    wiring = wiring_of(show.lines[0])
    for stop in wiring.line.stops:
        if needs_adapter(show, wiring, stop):
            show = insert(show, line.id, Device.ADAPTER, before=stop.id, label="adapter")
    line = ended(show, line.id).lines[0]
    return _New(
        line,
        sum(stop.device is Device.SPLITTER for stop in line.stops),
        sum(stop.length or 0 for stop in line.stops),
        sum(stop.length is None and stop.cable is not Cable.WIRELESS for stop in line.stops),
    )


def _stops(
    tape: Tape, universe: int | None, units: Sequence[Unit], branch: Branch, outputs: int
) -> list[Stop]:
    """The stops of a branch from the source on."""
    stops: list[Stop] = []
    splitters = 0

    def hang(branch: Branch, after: int | None, spot: Spot, output: int | None) -> None:
        nonlocal splitters
        for at in branch.units:
            unit = units[at]
            if unit.wireless:
                length = float(_reckoned(tape, spot, unit.first))
                stops.append(
                    Stop(
                        len(stops) + 1,
                        after,
                        output,
                        device=Device.TRANSMITTER,
                        label=f"Air U{universe}",
                        length=length,
                    )
                )
                after, output = len(stops), None
                for fixture in unit.fixtures:
                    unplugged = (Plug.WIRELESS, Plug.WIRELESS)
                    stops.append(
                        Stop(
                            len(stops) + 1,
                            after,
                            fixture=fixture,
                            cable=Cable.WIRELESS,
                            plugs=unplugged,
                        )
                    )
                spot = unit.last
                continue
            for fixture in unit.fixtures:
                here = tape.spots[fixture]
                metres = tape.run(spot, here)
                known = None if metres is None else float(metres)
                stops.append(Stop(len(stops) + 1, after, output, fixture=fixture, length=known))
                after, output, spot = len(stops), None, here
        if branch.branches:
            splitters += 1
            label = f"Splitter {splitters}"
            stops.append(
                Stop(
                    len(stops) + 1,
                    after,
                    output,
                    device=Device.SPLITTER,
                    label=label,
                    outputs=outputs,
                    length=SHORTEST,
                )
            )
            after = len(stops)
            for number, below in enumerate(branch.branches, 1):
                hang(below, after, spot, number)

    hang(branch, None, AT_THE_DESK, None)
    return stops


def _begins(units: Sequence[Unit], branch: Branch) -> str:
    """The first position on a branch, for its name; ``wireless`` where nothing hangs on it by
    cable."""
    wired = [units[at] for at in branch.units if not units[at].wireless]
    if wired:
        return wired[0].first[0] if wired[0].first else ""
    below = (_begins(units, held) for held in branch.branches)
    return next(filter(None, below), "by wireless" if branch.units else "")


def _whole(show: Show, units: Sequence[Unit]) -> bool:
    """Whether no position had to be divided."""
    places = [show.fixture(unit.fixtures[0]).position for unit in units if not unit.wireless]
    return len(set(places)) == len(places) and len(units) <= EXACT


def _remarks(unknown: int, universes: int, sockets: int) -> tuple[str, ...]:
    remarks = []
    if unknown:
        words = counted(unknown, "cable run is", "cable runs are")
        remarks.append(
            f"{words} of unknown length: each counts {NOT_KNOWN} m until distances and spacing "
            "are said."
        )
    if sockets < universes:
        remarks.append(
            f"{counted(universes, 'universe')} need a socket each, and {max(0, sockets)} are free."
        )
    return tuple(remarks)
