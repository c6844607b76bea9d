"""Every usual cause that a rig allows, each with how likely it is before anything was looked at.

The weights are practice: how often a kind of trouble is found on a freshly built rig. A kind shares
its weight among the places where it can be; what the records say of a fixture makes its share
larger or smaller.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from math import nan
from typing import TypeVar

from fence.core.model.address import SLOTS
from fence.core.model.box import Box, BoxKind, Numbering
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.network import given_by
from fence.core.model.profile import Profile, SetterKind
from fence.core.model.setter import misreadings, switches_on
from fence.core.model.show import Show
from fence.core.model.standing import State, state_of
from fence.core.model.text import printable
from fence.core.model.wiring import load_of, wiring_of
from fence.core.setting.segments import turned_readings
from fence.core.simulation.faults import Fault, Trouble

WEIGHTS: dict[Trouble, float] = {
    Trouble.PLUG_OUT: 18,
    Trouble.SWAPPED_PAIR: 2,
    Trouble.WRONG_ADDRESS: 15,
    Trouble.WRONG_MODE: 10,
    Trouble.DEAF: 6,
    Trouble.NO_POWER: 10,
    Trouble.WRONG_UNIVERSE: 3,
    Trouble.OFF_BY_ONE: 3,
    Trouble.OTHER_NETWORK: 3,
    Trouble.PORT_OFF: 4,
    Trouble.BLACKOUT: 4,
    Trouble.NOT_SENT: 4,
    Trouble.NO_TERMINATOR: 3,
    Trouble.SECOND_TERMINATOR: 1,
    Trouble.TOO_MANY_LOADS: 1,
    Trouble.WRONG_CABLE: 2,
    Trouble.SPLITTER_OFF: 2,
    Trouble.OUTPUT_DEAD: 1,
    Trouble.UNLINKED: 3,
    Trouble.FLAT: 2,
    Trouble.SECOND_SOURCE: 2,
    Trouble.OWN_PROGRAM: 3,
    Trouble.NO_LAMP: 4,
}
"""Relative frequency of each kind, to begin with (practice)."""
MOST_WEIGHT = 1000.0
NOTHING = 1.0
"""The weight of there being nothing wrong, and of what is seen being a slip."""
OF_A_SLIP, OF_A_NEIGHBOUR, OF_ANY = 0.35, 0.2, 0.45
"""Shares of wrong addresses: usual slips from the planned one, a neighbour's, any other."""
ADDRESSING = {Trouble.WRONG_ADDRESS, Trouble.WRONG_MODE, Trouble.DEAF}
WORN = {Trouble.NO_POWER, Trouble.PLUG_OUT, Trouble.FLAT}
SHARES = {State.TO_SET: 2.0, State.DIFFERS: 2.0, State.RE_SET: 2.0, State.PROVEN: 0.25}
"""How much likelier a wrong address or mode is by what is known of a fixture (practice)."""


K = TypeVar("K")


def weights_of(typed: Mapping[str, str]) -> dict[Trouble, float]:
    """The weights of some kinds as typed, with a comma or a point; those that are not named are
    practice. ``EditError`` says which cannot be read and what is accepted."""
    found = dict(WEIGHTS)
    for name, words in typed.items():
        if name not in set(WEIGHTS):
            raise EditError(f"“{printable(name[:40])}” is not a kind of trouble.")
        try:
            number = float(words.strip().replace(",", "."))
        except ValueError:
            number = nan
        if not 0 <= number <= MOST_WEIGHT:
            raise EditError(
                f"“{printable(words[:20])}” is not a weight of {name}. "
                f"Use 0 to {MOST_WEIGHT:g}, such as 2.5."
            )
        found[Trouble(name)] = number
    if not any(found.values()):
        raise EditError("At least one kind needs a weight above 0.")
    return found


@dataclass(frozen=True)
class Causes:
    """The causes of a show with their weights, and where each is."""

    faults: tuple[Fault, ...]
    weights: tuple[float, ...]

    @cached_property
    def place_of(self) -> Mapping[Fault, int]:
        """Where each cause stands among them."""
        return {fault: at for at, fault in enumerate(self.faults)}

    @cached_property
    def of_fixture(self) -> Mapping[int, list[int]]:
        """The causes at each fixture."""
        return self._by(lambda fault: fault.fixture)

    @cached_property
    def of_line(self) -> Mapping[str, list[int]]:
        """The causes on each line: its cable runs, its ends, its splitters."""
        return self._by(lambda fault: fault.line or None)

    @cached_property
    def of_box(self) -> Mapping[str, list[int]]:
        """The causes at each node."""
        return self._by(lambda fault: fault.box or None)

    @cached_property
    def of_all(self) -> list[int]:
        """The causes that are nowhere in particular: the desk, and that nothing is wrong."""
        return [
            at
            for at, fault in enumerate(self.faults)
            if fault.fixture is None and not fault.line and not fault.box
        ]

    def _by(self, key: Callable[[Fault], K | None]) -> Mapping[K, list[int]]:
        found: dict[K, list[int]] = defaultdict(list)
        for at, fault in enumerate(self.faults):
            if (where := key(fault)) is not None:
                found[where].append(at)
        return found


def causes_of(show: Show, weights: Mapping[Trouble, float] = WEIGHTS) -> Causes:
    """All usual causes of a show. The first is that nothing is wrong."""
    parts: list[tuple[Fault, float]] = [
        *_at_fixtures(show),
        *_on_lines(show),
        *_at_boxes(show),
        *_at_the_desk(show),
    ]
    sums: dict[Trouble, float] = defaultdict(float)
    for fault, share in parts:
        sums[fault.trouble] += share
    return Causes(
        (Fault(Trouble.NOTHING), *(fault for fault, _ in parts)),
        (
            NOTHING,
            *(weights[fault.trouble] * share / sums[fault.trouble] for fault, share in parts),
        ),
    )


def _at_fixtures(show: Show) -> Iterator[tuple[Fault, float]]:
    neighbours = _neighbours(show)
    linked = {
        stop.fixture
        for line in show.lines
        for stop in line.stops
        if stop.fixture is not None and stop.cable is Cable.WIRELESS
    }
    for fixture in show.fixtures:
        profile, mode = show.profile_of(fixture), show.mode_of(fixture)
        if profile is None or mode is None or not mode.footprint:
            continue
        state = state_of(show, fixture)
        set_up, worn = SHARES.get(state, 1.0), 2.0 if state is State.PROVEN else 1.0
        yield Fault(Trouble.NO_POWER, fixture.id), worn
        yield Fault(Trouble.DEAF, fixture.id), set_up * (2.0 if profile.listens else 1.0)
        yield Fault(Trouble.OWN_PROGRAM, fixture.id), 1.0
        yield Fault(Trouble.NO_LAMP, fixture.id), 1.0
        if profile.battery_hours:
            yield Fault(Trouble.FLAT, fixture.id), worn
        if fixture.id in linked:
            yield Fault(Trouble.UNLINKED, fixture.id), 1.0
        others = [other.name for other in profile.modes if other.name != fixture.mode]
        for name in others:
            yield Fault(Trouble.WRONG_MODE, fixture.id, value=name), set_up / len(others)
        for address, share in _addresses(fixture, profile, neighbours.get(fixture.id, ())):
            value = str(address) if address else ""
            yield Fault(Trouble.WRONG_ADDRESS, fixture.id, value=value), set_up * share


def _addresses(
    fixture: Fixture, profile: Profile, neighbours: Iterable[int]
) -> Iterator[tuple[int, float]]:
    """The addresses at which it may stand instead, each with its share; 0 stands for any other."""
    planned = fixture.start
    if planned is None or profile.setter.kind is SetterKind.FIXED:
        return
    slips = _slips(planned, profile) - {planned}
    near = {slot for slot in neighbours if slot != planned} - slips
    for slot in sorted(slips):
        yield slot, OF_A_SLIP / len(slips)
    for slot in sorted(near):
        yield slot, OF_A_NEIGHBOUR / len(near)
    yield 0, OF_ANY


def _slips(planned: int, profile: Profile) -> set[int]:
    """What the usual slips make of an address."""
    setter = profile.setter
    found = {planned - 1, planned + 1}
    if setter.kind is SetterKind.SWITCHES:
        try:
            found |= {one.address for one in misreadings(planned, setter) if one.address}
            on = set(switches_on(planned, setter))
            value = sum(1 << n - 1 for n in on if n <= setter.switches)
            first = 1 if setter.zero_based else 0
            found |= {(value ^ 1 << n) + first for n in range(setter.switches)}
        except FenceError:
            pass
    else:
        found |= turned_readings(planned)
    return {slot for slot in found if 1 <= slot <= SLOTS}


def _neighbours(show: Show) -> dict[int, set[int]]:
    """The starts of those that stand next to each fixture in the rig and in its universe."""
    found: dict[int, set[int]] = defaultdict(set)
    orders = [list(show.fixtures), *show.fixtures_in.values()]
    orders[1:] = [sorted(order, key=lambda f: f.start or 0) for order in orders[1:]]
    for order in orders:
        for one, other in pairwise(order):
            if one.start is not None and other.start is not None:
                found[one.id].add(other.start)
                found[other.id].add(one.start)
    return found


def _on_lines(show: Show) -> Iterator[tuple[Fault, float]]:
    hung = set()
    for line in show.lines:
        wiring = wiring_of(line)
        for stop in line.stops:
            hung.add(stop.fixture)
            yield from _at_a_stop(line, stop)
        if any(stop.device is Device.TERMINATOR for stop in line.stops):
            yield Fault(Trouble.NO_TERMINATOR, line=line.name), 1.0
        if any(section.wired for section in wiring.sections):
            yield Fault(Trouble.SECOND_TERMINATOR, line=line.name), 1.0
        if any(load_of(show, section) > 32 for section in wiring.sections):
            yield Fault(Trouble.TOO_MANY_LOADS, line=line.name), 1.0
    for fixture in show.fixtures:
        if fixture.id not in hung and show.mode_of(fixture) is not None:
            yield Fault(Trouble.PLUG_OUT, fixture.id), 1.0
            yield Fault(Trouble.WRONG_CABLE, fixture.id), 1.0


def _at_a_stop(line: Line, stop: Stop) -> Iterator[tuple[Fault, float]]:
    """What is wrong with the run to a device, or with the device itself."""
    where = {"line": line.name, "stop": stop.id}
    if stop.cable is not Cable.WIRELESS and stop.device is not Device.TERMINATOR:
        for trouble in (Trouble.PLUG_OUT, Trouble.SWAPPED_PAIR, Trouble.WRONG_CABLE):
            yield Fault(trouble, stop.fixture, **where), 1.0  # type: ignore[arg-type]
    if stop.device in (Device.SPLITTER, Device.TRANSMITTER) and stop.boosted:
        yield Fault(Trouble.SPLITTER_OFF, **where), 1.0  # type: ignore[arg-type]
    if stop.device is Device.SPLITTER and stop.boosted:
        outputs = {child.output for child in line.stops if child.after == stop.id and child.output}
        for output in sorted(outputs):
            yield Fault(Trouble.OUTPUT_DEAD, value=str(output), **where), 1.0  # type: ignore[arg-type]


def _at_boxes(show: Show) -> Iterator[tuple[Fault, float]]:
    for box in show.boxes:
        if box.kind is not BoxKind.NODE:
            continue
        giving = [port for port in box.outputs if given_by(box, port) is not None]
        if giving:
            yield Fault(Trouble.OTHER_NETWORK, box=box.name), 1.0
            if len(giving) > 1:
                yield from _as_a_whole(box)
        for port in giving:
            for trouble in (Trouble.WRONG_UNIVERSE, Trouble.OFF_BY_ONE, Trouble.PORT_OFF):
                yield Fault(trouble, box=box.name, port=port.number), 1.0


def _as_a_whole(box: Box) -> Iterator[tuple[Fault, float]]:
    """That all its ports are wrong at once, as where they count on from the first."""
    share = 2.0 if box.numbering is Numbering.RANGE else 1.0
    yield Fault(Trouble.OFF_BY_ONE, box=box.name), share
    yield Fault(Trouble.WRONG_UNIVERSE, box=box.name), share


def _at_the_desk(show: Show) -> Iterator[tuple[Fault, float]]:
    yield Fault(Trouble.BLACKOUT), 1.0
    for universe in show.carried:
        yield Fault(Trouble.NOT_SENT, value=str(universe)), 1.0
        yield Fault(Trouble.SECOND_SOURCE, value=str(universe)), 1.0
