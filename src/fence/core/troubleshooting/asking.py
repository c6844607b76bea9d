"""Which check to make next: the one that is expected to tell most for the time it takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from fence.core.model.box import BoxKind
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Device, Stop
from fence.core.model.show import Show
from fence.core.simulation.faults import AT_A_BOX, OF_A_RUN, Fault, Trouble
from fence.core.troubleshooting.belief import SLIPS, Belief, Weighing
from fence.core.troubleshooting.evidence import Answer, Check, Kind
from fence.core.troubleshooting.foresight import Foreseen, Foresight

SETTLED, ALL_THE_SAME = 0.9, 0.98
"""From how likely on a cause is taken to be found; and where it leaves something unexplained."""
CONSIDERED = 160
"""Causes among which a check should tell: the likeliest."""
MOST_FIXTURES, MOST_LINES, MOST_OTHERS, MOST_SWAPS = 5, 2, 12, 2
"""Of how many of each the checks are looked at."""
MOST_OUTPUTS = 4
"""Outputs of a splitter behind which is looked."""
PARTS = 6
"""Into how many parts what is suspected along a line is cut."""
FROM_THE_DESK, ON_THE_GROUND, IN_REACH = 0.3, 1.0, 1.0
LADDER, A_METRE = 4.0, 0.5
SWAPPING, SWAPPING_HIGH = 3.0, 7.0
EACH = 3.0
"""Minutes that any check takes beside its own: finding, saying, writing down (practice). It keeps
many quick checks that tell little behind one that tells much."""
REACH = 2.0
"""Metres up to which a person reaches from the ground (practice)."""
LEAST_TOLD = 0.02
"""Bits below which a check tells nothing worth the way."""


@dataclass(frozen=True, slots=True)
class Next:
    """The check to make next, with the bits that it is expected to tell and the minutes that it
    takes."""

    check: Check
    told: float
    minutes: float


def is_settled(weighing: Weighing, belief: Belief) -> bool:
    """Whether one cause stands out, and it is not that nothing is wrong."""
    ((faults, share),) = belief.best(1)
    if share < SETTLED or faults[0].trouble is Trouble.NOTHING:
        return False
    if share < ALL_THE_SAME and weighing.unexplained(belief, faults):
        return False
    return not any(confirming(weighing.foresight, belief, fault) for fault in faults)


CONFIRMED_BY = {
    Trouble.NO_POWER: Kind.POWER,
    Trouble.FLAT: Kind.POWER,
    Trouble.DEAF: Kind.LISTENS,
    Trouble.WRONG_ADDRESS: Kind.DISPLAY,
    Trouble.WRONG_MODE: Kind.DISPLAY,
}
"""The check at a fixture that shows each cause itself."""


def confirming(foresight: Foresight, belief: Belief, fault: Fault) -> Check | None:
    """The check that shows a cause itself, as long as nobody has made it: the desk, a node, another
    cable, the power, the display. None where there is no such check."""
    done = {one.check for one in belief.evidence}
    if fault.trouble is Trouble.BLACKOUT and _has_desk(foresight.show):
        check = Check(Kind.DESK)
        return None if check in done else check
    if fault.trouble in AT_A_BOX:
        ports = [port for box, port in foresight.nodes() if box == fault.box]
        checks = [Check(Kind.NODE, box=fault.box, port=port) for port in ports]
        mine = [one for one in checks if fault.port in (None, one.port)]
        return mine[0] if mine and not done & set(mine) else None
    if fault.trouble in OF_A_RUN and fault.line and fault.stop is not None:
        check = Check(Kind.SWAP, line=fault.line, stop=fault.stop)
        return None if check in done else check
    fixture = foresight.show.fixture_by_id.get(fault.fixture or 0)
    if fault.trouble in CONFIRMED_BY and fixture is not None:
        check = Check(CONFIRMED_BY[fault.trouble], fixture.id)
        possible = check.kind is not Kind.DISPLAY or foresight.can_read(fixture)
        return check if possible and check not in done else None
    return None


def _has_desk(show: Show) -> bool:
    return any(box.kind is BoxKind.DESK for box in show.boxes) or bool(show.desk.name)


def next_checks(weighing: Weighing, belief: Belief) -> list[Next]:
    """The checks worth making, the best first; where a cause stands out, the one that shows it
    itself. None once it is found, or where nothing that can be done here tells more."""
    if is_settled(weighing, belief):
        return []
    foresight = weighing.foresight
    best = belief.first(CONSIDERED)
    done = {one.check for one in belief.evidence}
    shares = belief.chances[best] / belief.chances[best].sum()
    found = []
    for check in _worth_asking(foresight, [belief.faults[at] for at in best], shares.tolist()):
        if check in done:
            continue
        told = _told(weighing, check, belief, best, shares)
        if told > LEAST_TOLD:
            found.append(Next(check, told, minutes_of(foresight.show, check)))
    found.sort(key=lambda one: (-one.told / (one.minutes + EACH), one.check))
    ((likeliest, share),) = belief.best(1)
    open_ones = [confirming(foresight, belief, fault) for fault in likeliest]
    wanted = dict.fromkeys(one for one in open_ones if one is not None and share >= SETTLED)
    shown = [Next(check, 1.0, minutes_of(foresight.show, check)) for check in wanted]
    return [*shown, *(one for one in found if one.check not in wanted)]


def _told(
    weighing: Weighing,
    check: Check,
    belief: Belief,
    best: Sequence[int],
    shares: NDArray[np.float64],
) -> float:
    """The bits that the answer of a check is expected to tell about the likeliest causes."""
    foreseen, touched = weighing.foresight.foreseen, weighing.touched_by(check)
    usual = _as_one(foreseen(check, ()))
    answers = {key: at for at, key in enumerate(usual)}
    # all that the check does not touch is answered alike: they count as one
    rows: list[tuple[float, Foreseen]] = [(0.0, usual)]
    alike = 1.0
    for place, share in zip(best, shares.tolist(), strict=True):
        faults = weighing.of_those(touched, belief.faults[place])
        if not faults:
            continue
        told = _as_one(foreseen(check, faults))
        if told == usual:
            continue
        alike -= share
        rows.append((share, told))
        for key in told:
            answers.setdefault(key, len(answers))
    if len(rows) < 2:
        return 0.0
    rows[0] = (max(alike, 0.0), usual)
    matrix = np.zeros((len(rows), len(answers)))
    for at, (_, told) in enumerate(rows):
        for key, chance in told.items():
            matrix[at, answers[key]] = chance
    weights = np.array([share for share, _ in rows])
    slip = SLIPS[check.kind]
    matrix = (1 - slip) * matrix + slip / len(answers)
    mixed = weights @ matrix
    own = -(matrix * np.log2(matrix)).sum(axis=1)
    return float(-(mixed * np.log2(mixed)).sum() - weights @ own)


def _as_one(foreseen: Foreseen) -> Foreseen:
    """A display tells address and mode at one look: as one answer."""
    if not any(answer is Answer.MODE for answer, _ in foreseen):
        return foreseen or {(Answer.OFF, ""): 1.0}
    told = "/".join(value or "?" for _, value in sorted(foreseen))
    return {(Answer.SAYS, told): 1.0}


def _worth_asking(
    foresight: Foresight, causes: Sequence[tuple[Fault, ...]], shares: Sequence[float]
) -> list[Check]:
    """The checks that can be made here and may tell the likeliest causes apart: of the fixtures
    that are suspected most, along the lines at places that part what is suspected, and of what
    feeds them."""
    fixtures: dict[int, float] = defaultdict(float)
    lines: dict[str, dict[int | None, float]] = {}
    others: dict[Fault, None] = {}
    for faults, share in zip(causes, shares, strict=True):
        for fault in faults:
            if fault.fixture is not None:
                fixtures[fault.fixture] += share
            if fault.line:
                stops = lines.setdefault(fault.line, defaultdict(float))
                stops[fault.stop] += share
            elif fault.fixture is None:
                others[fault] = None
    found: dict[Check, None] = {}
    for fixture_id in sorted(fixtures, key=lambda one: -fixtures[one])[:MOST_FIXTURES]:
        found |= dict.fromkeys(_at_fixture(foresight, foresight.show.fixture(fixture_id)))
    for name in sorted(lines, key=lambda one: -sum(lines[one].values()))[:MOST_LINES]:
        found |= dict.fromkeys(_along(foresight, name, lines[name]))
    for fault in list(others)[:MOST_OTHERS]:
        found |= dict.fromkeys(_about(foresight, fault))
    return list(found)


def _about(foresight: Foresight, fault: Fault) -> Iterator[Check]:
    """The checks that a cause at a node or at the desk would change."""
    show = foresight.show
    if fault.box:
        for box, port in foresight.nodes():
            if box == fault.box and fault.port in (None, port):
                yield Check(Kind.NODE, box=box, port=port)
                for line in foresight.on_port.get((box, port), ())[:2]:
                    yield from _ends(foresight, line.name)
    if fault.trouble in (Trouble.BLACKOUT, Trouble.NOT_SENT, Trouble.SECOND_SOURCE):
        if _has_desk(show):
            yield Check(Kind.DESK)
        for number in [int(fault.value)] if fault.value else list(show.carried)[:4]:
            some = (f for f in show.fixtures_in.get(number, ()) if foresight.can_look(f))
            for fixture in islice(some, 2):
                yield Check(Kind.LOOK, fixture.id)


def _at_fixture(foresight: Foresight, fixture: Fixture) -> Iterator[Check]:
    if foresight.can_look(fixture):
        yield Check(Kind.LOOK, fixture.id)
    yield Check(Kind.POWER, fixture.id)
    if foresight.can_read(fixture):
        yield Check(Kind.DISPLAY, fixture.id)
    yield Check(Kind.LISTENS, fixture.id)
    if foresight.can_ask(fixture):
        yield Check(Kind.RDM, fixture.id)
    for line, stop in foresight.ways.get(fixture.id, ()):
        if stop.cable is not Cable.WIRELESS:
            yield Check(Kind.TESTER, line=line.name, stop=stop.id)


def _along(
    foresight: Foresight, name: str, suspected: Mapping[int | None, float]
) -> Iterator[Check]:
    """Along a line: the tester and a look at places that part what is suspected, and another cable
    for the runs that are suspected most. What is suspected of the whole line is checked at its
    ends."""
    wiring = foresight.wiring(name)
    if None in suspected:
        yield from _ends(foresight, name)
    order = [stop for stop in wiring.behind(None) if suspected.get(stop.id)]
    whole, passed, parts = sum(suspected[stop.id] for stop in order), 0.0, 0
    for stop in order:
        passed += suspected[stop.id]
        if passed * PARTS < parts * whole:
            continue
        parts = int(passed * PARTS / whole) + 1
        if stop.cable is not Cable.WIRELESS:
            yield Check(Kind.TESTER, line=name, stop=stop.id)
        yield from _looks_behind(foresight, name, stop)
    runs = sorted(order, key=lambda stop: -suspected[stop.id])
    for stop in runs[:MOST_SWAPS]:
        if stop.cable is not Cable.WIRELESS and stop.device is not Device.TERMINATOR:
            yield Check(Kind.SWAP, line=name, stop=stop.id)


def _looks_behind(foresight: Foresight, name: str, stop: Stop) -> Iterator[Check]:
    """A look at a device of a line, and at the first fixture behind each of its outputs."""
    wiring = foresight.wiring(name)
    by_output = {child.output: child for child in reversed(wiring.children.get(stop.id, ()))}
    for first in (stop, *list(by_output.values())[:MOST_OUTPUTS]):
        held: Stop | None = first
        while held is not None:
            fixture = foresight.show.fixture_by_id.get(held.fixture or 0)
            if fixture is not None and foresight.can_look(fixture):
                yield Check(Kind.LOOK, fixture.id)
                break
            if first is stop:
                break
            held = next(iter(wiring.children.get(held.id, ())), None)


def _ends(foresight: Foresight, name: str) -> Iterator[Check]:
    """The first and the last of a line: the tester at both, a look at both."""
    stops = [s for s in foresight.line_by_name[name].stops if s.fixture is not None]
    for stop in (*stops[:1], *stops[-1:]):
        if stop.cable is not Cable.WIRELESS:
            yield Check(Kind.TESTER, line=name, stop=stop.id)
        fixture = foresight.show.fixture_by_id.get(stop.fixture or 0)
        if fixture is not None and foresight.can_look(fixture):
            yield Check(Kind.LOOK, fixture.id)


def minutes_of(show: Show, check: Check) -> float:
    """How long a check takes (practice): from the desk, on the ground, on a ladder."""
    if check.kind in (Kind.LOOK, Kind.RDM, Kind.DESK):
        return FROM_THE_DESK
    if check.kind is Kind.NODE:
        return ON_THE_GROUND
    height = _height(show, check)
    if check.kind is Kind.SWAP:
        return SWAPPING if height <= REACH else SWAPPING_HIGH
    return IN_REACH if height <= REACH else LADDER + A_METRE * height


def _height(show: Show, check: Check) -> float:
    """Metres above the floor of the place of a check, as far as it is known."""
    fixture = show.fixture_by_id.get(check.fixture)
    if fixture is None and check.line:
        line = next((line for line in show.lines if line.name == check.line), None)
        stop = next((s for s in line.stops if s.id == check.stop), None) if line else None
        fixture = show.fixture_by_id.get(stop.fixture or 0) if stop else None
    if fixture is None:
        return 0.0
    return heights_of(show).get(fixture.position, 0.0)


def heights_of(show: Show) -> dict[str, float]:
    """How high each position is, in metres; a hard one of unknown height as if it were high."""
    return {
        place.name: place.height if place.height is not None else 4.0 if place.hard else 0.0
        for place in show.positions
    }
