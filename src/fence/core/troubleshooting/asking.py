"""Which check to make next: the one that is expected to tell most for the time it takes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import log2

import numpy as np
from numpy.typing import NDArray

from fence.core.model.box import BoxKind
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Device
from fence.core.model.show import Show
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.belief import SLIPS, Belief, Weighing
from fence.core.troubleshooting.evidence import Answer, Check, Kind
from fence.core.troubleshooting.foresight import Foreseen, Foresight

SETTLED = 0.95
"""From how likely on a cause is taken to be found."""
CONSIDERED = 160
"""Causes among which a check should tell: the likeliest."""
MOST_CHECKS = 120
FROM_THE_DESK, ON_THE_GROUND, IN_REACH = 0.3, 1.0, 1.0
LADDER, A_METRE = 4.0, 0.5
SWAPPING, SWAPPING_HIGH = 3.0, 7.0
EACH = 3.0
"""Minutes that any check takes beside its own: finding, saying, writing down (practice). It keeps
many quick checks that tell little behind one that tells much."""
REACH = 2.0
"""Metres up to which a person reaches from the ground (practice)."""
LEAST_TOLD = 0.01
"""Bits below which a check tells nothing worth the way."""


@dataclass(frozen=True, slots=True)
class Next:
    """The check to make next, with the bits that it is expected to tell and the minutes that it
    takes."""

    check: Check
    told: float
    minutes: float


def is_settled(belief: Belief) -> bool:
    """Whether one cause stands out, and it is not that nothing is wrong."""
    ((faults, share),) = belief.best(1)
    return share >= SETTLED and faults[0].trouble is not Trouble.NOTHING


def next_checks(weighing: Weighing, belief: Belief, most: int = 1) -> list[Next]:
    """The checks worth making, the best first; none where the cause stands out, or where nothing
    that can be done here tells more."""
    if is_settled(belief):
        return []
    foresight = weighing.foresight
    best = belief.first(CONSIDERED)
    done = {one.check for one in belief.evidence}
    shares = belief.chances[best] / belief.chances[best].sum()
    found = []
    for check in _worth_asking(foresight, [belief.faults[at] for at in best]):
        if check in done:
            continue
        told = _told(weighing, check, belief, best, shares)
        if told > LEAST_TOLD:
            found.append(Next(check, told, minutes_of(foresight.show, check)))
    found.sort(key=lambda one: (-one.told / (one.minutes + EACH), one.check))
    return found[:most]


def _told(
    weighing: Weighing,
    check: Check,
    belief: Belief,
    best: Sequence[int],
    shares: NDArray[np.float64],
) -> float:
    """The bits that the answer of a check is expected to tell about the likeliest causes."""
    foreseen, touched = weighing.foresight.foreseen, weighing.touched_by(check)
    singles = len(weighing.singles)
    usual = _as_one(foreseen(check, ()))
    answers = {key: at for at, key in enumerate(usual)}
    # all that the check does not touch is answered alike: they count as one
    rows: list[tuple[float, Foreseen]] = [(0.0, usual)]
    alike = 1.0
    for place, share in zip(best, shares.tolist(), strict=True):
        if place < singles and place not in touched:
            continue
        told = _as_one(foreseen(check, _real(belief.faults[place])))
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


def _real(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    return () if faults[0].trouble is Trouble.NOTHING else faults


def _as_one(foreseen: Foreseen) -> Foreseen:
    """A display tells address and mode at one look: as one answer."""
    if not any(answer is Answer.MODE for answer, _ in foreseen):
        return foreseen or {(Answer.OFF, ""): 1.0}
    told = "/".join(value or "?" for _, value in sorted(foreseen))
    return {(Answer.SAYS, told): 1.0}


def _worth_asking(foresight: Foresight, causes: Sequence[tuple[Fault, ...]]) -> Iterator[Check]:
    """The checks that can be made here and may tell the likeliest causes apart."""
    found: dict[Check, None] = {}
    for faults in causes:
        for fault in faults:
            for check in _about(foresight, fault):
                found[check] = None
                if len(found) >= MOST_CHECKS:
                    yield from found
                    return
    yield from found


def _about(foresight: Foresight, fault: Fault) -> Iterator[Check]:
    """The checks that a cause would change."""
    show = foresight.show
    if fault.fixture is not None and (fixture := show.fixture_by_id.get(fault.fixture)):
        yield from _at_fixture(foresight, fixture)
    if fault.line:
        yield from _along(foresight, fault)
    if fault.box:
        for box, port in foresight.nodes():
            if box == fault.box and fault.port in (None, port):
                yield Check(Kind.NODE, box=box, port=port)
                for line in foresight.on_port.get((box, port), ())[:2]:
                    yield from _ends(foresight, line.name)
    if fault.trouble in (Trouble.BLACKOUT, Trouble.NOT_SENT, Trouble.SECOND_SOURCE):
        if any(box.kind is BoxKind.DESK for box in show.boxes) or show.desk.name:
            yield Check(Kind.DESK)
        for number in [int(fault.value)] if fault.value else list(show.carried)[:4]:
            some = [f for f in show.fixtures_in.get(number, ()) if foresight.can_look(f)]
            for fixture in some[:2]:
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


def _along(foresight: Foresight, fault: Fault) -> Iterator[Check]:
    """What can be checked about a cable run, or about a whole line."""
    wiring = foresight.wiring(fault.line)
    stop = wiring.by_id.get(fault.stop) if fault.stop is not None else None
    if stop is None:
        yield from _ends(foresight, fault.line)
        return
    if stop.cable is not Cable.WIRELESS:
        yield Check(Kind.TESTER, line=fault.line, stop=stop.id)
        if stop.device is not Device.TERMINATOR:
            yield Check(Kind.SWAP, line=fault.line, stop=stop.id)
    near = [stop, *wiring.children.get(stop.id, ())]
    for held in near:
        fixture = foresight.show.fixture_by_id.get(held.fixture or 0)
        if fixture is not None and foresight.can_look(fixture):
            yield Check(Kind.LOOK, fixture.id)


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


def bits(count: int) -> float:
    """The bits that tell so many causes apart."""
    return log2(max(1, count))
