"""Faults that are hidden in a rig, to be found: which are hidden, what is complained of, what a
check finds, whether somebody says rightly what it is, and how a search would have gone.

Minutes are those of *Troubleshoot*: practice, by where something hangs.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from random import Random

from fence.core.model.address import SLOTS
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.simulation.faults import (
    AT_A_BOX,
    AT_A_SPLITTER,
    COUNTED_WRONG,
    OF_A_RUN,
    OF_A_UNIVERSE,
    ON_A_LINE,
    Fault,
    Trouble,
)
from fence.core.simulation.practice import PracticeRig
from fence.core.troubleshooting.asking import minutes_of
from fence.core.troubleshooting.causes import causes_of
from fence.core.troubleshooting.evidence import AT_A_STOP, Answer, Check, Evidence, Kind
from fence.core.troubleshooting.foresight import Foresight
from fence.core.troubleshooting.inspecting import inspected
from fence.core.troubleshooting.search import Search

T = Trouble
FIRST = frozenset({T.NO_POWER, T.WRONG_ADDRESS, T.PLUG_OUT, T.BLACKOUT, T.DEAF, T.NO_LAMP})
SECOND = FIRST | {
    T.WRONG_MODE,
    T.PORT_OFF,
    T.OFF_BY_ONE,
    T.NOT_SENT,
    T.OWN_PROGRAM,
    T.SWAPPED_PAIR,
    T.SPLITTER_OFF,
    T.OTHER_NETWORK,
}
KINDS = {1: FIRST, 2: SECOND, 3: frozenset(T) - {T.NOTHING}, 4: SECOND}
"""What may be hidden, by level; the fourth is a morning with several faults."""
MORNING, FAULTS_OF_A_MORNING = 4, 5
TWO = 0.4
"""How often two are hidden at once, at the third level."""
MOST_DRAWN = 200
MENDING = 3.0
"""Minutes that mending takes beside the way there, right or not (practice)."""
LOOKING_OVER = 1.0
"""Minutes to look over the whole rig once more."""
MOST_STEPS = 60
MOST_LOOKED_AT = 1000
WORTH = 0.1
"""Bits below which a check is not made any more in a search that is gone through."""


@dataclass(frozen=True, slots=True)
class Claim:
    """What somebody says is wrong, and where: as of a fault, without its value."""

    trouble: Trouble
    fixture: int | None = None
    line: str = ""
    stop: int | None = None
    box: str = ""
    port: int | None = None
    universe: str = ""


@dataclass(frozen=True, slots=True)
class Step:
    """A check that was made, what it found, and its minutes."""

    check: Check
    found: tuple[Evidence, ...]
    minutes: float


class Hidden:
    """A show with faults that are hidden in it."""

    def __init__(self, show: Show, faults: Sequence[Fault]) -> None:
        self.show, self.faults = show, tuple(faults)
        self.foresight = Foresight(show)

    @cached_property
    def rig(self) -> PracticeRig:
        """How it stands."""
        return PracticeRig(self.show, self.faults, self.foresight.kept)

    def found(self, check: Check) -> tuple[Evidence, ...]:
        """What somebody finds who makes a check: a fixture is brought up alone for a look.
        ``EditError`` for a place that there is not."""
        check_place(self.show, check)
        frames = self.foresight.silence
        if check.kind is Kind.LOOK:
            frames = self.foresight.frames_for(self.show.fixture(check.fixture))
        return tuple(inspected(self.rig, check, frames))

    def complaint(self) -> Evidence | None:
        """What was noticed first: of the fixtures in the order of the rig the first that looks
        otherwise than without the faults, and not as it should; None where there is none."""
        for fixture in self._looked_at():
            if not self.foresight.can_look(fixture) or not self._looks_otherwise(fixture):
                continue
            check = Check(Kind.LOOK, fixture.id)
            (seen,) = self.found(check)
            frames = self.foresight.frames_for(fixture)
            usual = inspected(self.foresight.at_ease, check, frames)[0]
            if seen.answer is not Answer.RIGHT and seen != usual:
                return seen
        return None

    def _looks_otherwise(self, fixture: Fixture) -> bool:
        """Whether a fixture that is brought up does something else than without the faults."""
        frames = self.foresight.frames_for(fixture)
        ways = self.foresight.ways.get(fixture.id, ())
        usual = self.foresight.at_ease.seen_at(fixture, frames, ways)
        return self.rig.seen_at(fixture, frames, ways) != usual

    def _looked_at(self) -> Sequence[Fixture]:
        """The fixtures that are looked at: all, or of very many those that a fault may touch."""
        if len(self.show.fixtures) <= MOST_LOOKED_AT:
            return self.show.fixtures
        ids: set[int | None] = {fault.fixture for fault in self.faults}
        for line in self.show.lines:
            box = self.show.box_by_id.get(line.source.box) if line.source else None
            if any(
                line.name == fault.line or (box is not None and box.name == fault.box)
                for fault in self.faults
            ):
                ids |= {stop.fixture for stop in line.stops}
        for fault in self.faults:
            numbers = [int(fault.value)] if fault.trouble in OF_A_UNIVERSE else []
            if fault.trouble is Trouble.BLACKOUT:
                numbers = list(self.show.carried)[:1]
            for number in numbers:
                ids |= {one.id for one in self.show.fixtures_in.get(number, ())}
        return [one for one in self.show.fixtures if one.id in ids][:MOST_LOOKED_AT]

    def without(self, claim: Claim) -> Hidden | None:
        """The same with the fault mended that a claim names; None where there is none such."""
        left = [fault for fault in self.faults if not fits(self.show, claim, fault)]
        return Hidden(self.show, left) if len(left) < len(self.faults) else None


def draw(show: Show, chance: Random, level: int) -> tuple[Fault, ...]:
    """Faults of a level that can be noticed, drawn so that each kind is as likely as any other.
    ``EditError`` where a rig allows none."""
    causes = causes_of(show)
    by_kind: dict[Trouble, list[Fault]] = {}
    for fault in causes.faults:
        if fault.trouble in KINDS[level]:
            by_kind.setdefault(fault.trouble, []).append(fault)
    wanted = 2 if level == 3 and chance.random() < TWO else 1
    if level == MORNING:
        wanted = FAULTS_OF_A_MORNING
    drawn: list[Fault] = []
    for _ in range(MOST_DRAWN):
        if len(drawn) == wanted or not by_kind:
            break
        trouble = chance.choice(sorted(by_kind))
        fault = _with_value(show, chance.choice(by_kind[trouble]), chance)
        hidden = Hidden(show, (*drawn, fault))
        if any(fault.trouble is held.trouble for held in drawn) or _same_place(fault, drawn):
            continue
        if Hidden(show, (fault,)).complaint() is not None and hidden.complaint() is not None:
            drawn.append(fault)
    if not drawn:
        raise EditError(
            "This rig allows no fault that could be noticed: give its fixtures charts, addresses "
            "and lines first."
        )
    return tuple(drawn)


def _same_place(fault: Fault, drawn: Sequence[Fault]) -> bool:
    return any(
        (held.fixture is not None and held.fixture == fault.fixture)
        or (held.line != "" and held.line == fault.line)
        or (held.box != "" and held.box == fault.box)
        for held in drawn
    )


def _with_value(show: Show, fault: Fault, chance: Random) -> Fault:
    """A fault that stands for any address takes one."""
    if fault.trouble is not Trouble.WRONG_ADDRESS or fault.value:
        return fault
    fixture = show.fixture(fault.fixture or 0)
    mode = show.mode_of(fixture)
    last = SLOTS + 1 - (mode.footprint if mode else 1)
    others = [slot for slot in range(1, last + 1) if slot != fixture.start]
    return replace(fault, value=str(chance.choice(others)))


def fits(show: Show, claim: Claim, fault: Fault) -> bool:
    """Whether a claim names a fault: the kind, or one that is mended in the same way, at its
    place."""
    alike = claim.trouble is fault.trouble
    if claim.trouble in OF_A_RUN:
        alike = fault.trouble in OF_A_RUN  # another cable mends them all
    if claim.trouble in COUNTED_WRONG:
        alike = fault.trouble in COUNTED_WRONG  # off by one is another universe, too
    if not alike:
        return False
    if fault.trouble is Trouble.BLACKOUT:
        return True
    if fault.trouble in OF_A_UNIVERSE:
        return claim.universe == fault.value
    if fault.trouble in ON_A_LINE:
        return claim.line == fault.line
    if fault.trouble in AT_A_BOX:
        return claim.box == fault.box and (fault.port is None or claim.port in (None, fault.port))
    if fault.trouble in AT_A_SPLITTER:
        return (claim.line, claim.stop) == (fault.line, fault.stop)
    if fault.trouble in OF_A_RUN:
        return _at_run(show, claim, fault)
    return claim.fixture == fault.fixture


def _at_run(show: Show, claim: Claim, fault: Fault) -> bool:
    """Whether a claim names the cable run of a fault, by its device or by its fixture."""
    if fault.line and claim.line:
        return (claim.line, claim.stop) == (fault.line, fault.stop)
    fixture = claim.fixture
    for line in show.lines if claim.line else ():
        if line.name == claim.line:
            fixture = next((stop.fixture for stop in line.stops if stop.id == claim.stop), None)
    return fixture is not None and fixture == fault.fixture


def check_place(show: Show, check: Check) -> None:
    """``EditError`` for a check of something that the show has not."""
    known = True
    if check.kind is Kind.NODE:
        known = any(box.name == check.box and box.port(check.port) for box in show.boxes)
    elif check.kind in AT_A_STOP:
        known = any(
            line.name == check.line and any(stop.id == check.stop for stop in line.stops)
            for line in show.lines
        )
    elif check.kind is not Kind.DESK:
        known = check.fixture in show.fixture_by_id
    if not known:
        raise EditError("That is not there to be looked at: choose one from the list.")


def minutes_to_mend(show: Show, claim: Claim) -> float:
    """How long it takes to mend what somebody says is wrong, whether it is or not."""
    if claim.line and claim.stop is not None and claim.trouble in OF_A_RUN:
        return minutes_of(show, Check(Kind.SWAP, line=claim.line, stop=claim.stop))
    if claim.fixture is not None:
        return MENDING + minutes_of(show, Check(Kind.DISPLAY, claim.fixture))
    return MENDING


def search_for(show: Show, faults: Sequence[Fault], begun: Evidence) -> list[Step]:
    """The checks that *Troubleshoot* would have made from the same complaint, fault after fault,
    each mended once it stands out."""
    hidden, search = Hidden(show, faults), Search(show)
    steps: list[Step] = []
    noticed: Evidence | None = begun
    while noticed is not None and len(steps) < MOST_STEPS:
        evidence = [noticed]
        finding = search.after(evidence)
        while not finding.settled and finding.checks and len(steps) < MOST_STEPS:
            if finding.checks[0].told < WORTH:
                break  # the likeliest is tried before anything that tells so little
            check = finding.checks[0].check
            found = hidden.found(check)
            steps.append(Step(check, found, minutes_of(show, check)))
            if not found:
                break
            evidence += found
            finding = search.after(evidence)
        left = hidden
        for suspect in finding.suspects:
            mended = hidden.without(claim_of(suspect.fault))
            if mended is not None:
                left = mended
                break
        if left is hidden:
            break
        hidden, noticed = left, left.complaint()
    return steps


def claim_of(fault: Fault) -> Claim:
    """A fault as somebody would say it."""
    universe = fault.value if fault.trouble in OF_A_UNIVERSE else ""
    return Claim(
        fault.trouble, fault.fixture, fault.line, fault.stop, fault.box, fault.port, universe
    )
