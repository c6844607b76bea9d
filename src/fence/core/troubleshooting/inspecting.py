"""What somebody finds who makes a check at a practice rig: what an instructor would say who stands
behind it."""

from __future__ import annotations

from fence.core.model.fixture import Fixture
from fence.core.model.line import Line, Stop
from fence.core.model.network import given_by, number_on, said_by
from fence.core.model.profile import SetterKind
from fence.core.simulation.faults import AT_A_BOX, GIVES_NOTHING, OF_A_RUN, Fault, Trouble
from fence.core.simulation.practice import Frames, PracticeRig, Seen, Signal
from fence.core.troubleshooting.evidence import Answer, Check, Evidence, Kind


def inspected(rig: PracticeRig, check: Check, frames: Frames) -> list[Evidence]:
    """What a check finds while these levels are sent: one piece of evidence, or two of a display
    that shows a mode as well; none where there is nothing to be read."""
    match check.kind:
        case Kind.LOOK:
            return [_look(rig, check, frames)]
        case Kind.TESTER:
            return [Evidence(check, _tester(rig, check, frames))]
        case Kind.SWAP:
            here = any(_at_run(rig, fault, check) for fault in rig.faults)
            return [Evidence(check, Answer.HELPS if here else Answer.NO_CHANGE)]
        case Kind.NODE:
            return [_node(rig, check)]
        case Kind.DESK:
            black = bool(rig.by_trouble.get(Trouble.BLACKOUT))
            return [Evidence(check, Answer.BLACKOUT if black else Answer.SENDS)]
    return _at_fixture(rig, check)


def _at_run(rig: PracticeRig, fault: Fault, check: Check) -> bool:
    """Whether a fault is in the cable run to a device. One that names no line is in that to its
    fixture."""
    if fault.trouble not in OF_A_RUN:
        return False
    if fault.line:
        return (fault.line, fault.stop) == (check.line, check.stop)
    line = next(line for line in rig.show.lines if line.name == check.line)
    return any(
        stop.id == check.stop and stop.fixture is not None and stop.fixture == fault.fixture
        for stop in line.stops
    )


def _at_fixture(rig: PracticeRig, check: Check) -> list[Evidence]:
    fixture = rig.show.fixture(check.fixture)
    stand = rig.stand_of(fixture)
    match check.kind:
        case Kind.POWER:
            return [Evidence(check, Answer.ON if stand.powered else Answer.OFF)]
        case Kind.LISTENS:
            return [Evidence(check, Answer.YES if stand.listens else Answer.NO)]
        case Kind.RDM:
            silent = not stand.powered or all(
                one.universe is None for one in _reaching(rig, fixture)
            )
            return [Evidence(check, Answer.SILENT if silent else Answer.ANSWERS)]
    profile = rig.show.profile_of(fixture)
    dark = not stand.powered and profile is not None and profile.setter.kind is SetterKind.MENU
    if dark or not stand.starts or not stand.starts[0]:
        return []
    says = Evidence(check, Answer.SAYS, str(stand.starts[0]))
    return [says, Evidence(check, Answer.MODE, stand.mode.name)] if stand.mode else [says]


def _reaching(rig: PracticeRig, fixture: Fixture) -> tuple[Signal, ...]:
    return rig.reaching(fixture, _ways(rig, fixture))


def _ways(rig: PracticeRig, fixture: Fixture) -> list[tuple[Line, Stop]]:
    return [
        (line, stop) for line in rig.show.lines for stop in line.stops if stop.fixture == fixture.id
    ]


def _look(rig: PracticeRig, check: Check, frames: Frames) -> Evidence:
    """What is seen of a fixture, beside what it would do if nothing were wrong; where it stays
    dark, somebody else who lights up."""
    seen, usual = rig.seen(frames), PracticeRig(rig.show).seen(frames)
    mine, wanted = seen[check.fixture], usual[check.fixture]
    if mine.flickers:
        return Evidence(check, Answer.FLICKER)
    if mine.state.startswith("own program"):
        return Evidence(check, Answer.OWN_PROGRAM)
    if not mine.lit:
        others = (at for at, one in seen.items() if one.lit and not usual[at].lit)
        other = next((at for at in others if not _by_itself(seen[at])), None)
        return (
            Evidence(check, Answer.ANOTHER, str(other)) if other else Evidence(check, Answer.DARK)
        )
    same = (mine.colour, mine.state) == (wanted.colour, wanted.state)
    return Evidence(check, Answer.RIGHT if same else Answer.OTHER_COLOUR)


def _by_itself(seen: Seen) -> bool:
    return seen.state.startswith("own program")


def _tester(rig: PracticeRig, check: Check, frames: Frames) -> Answer:
    line = next(line for line in rig.show.lines if line.name == check.line)
    signal = rig.arriving(line).get(check.stop, Signal(None))
    if signal.garbled or (signal.universe is not None and not signal.clean):
        return Answer.ERRORS
    if signal.universe is None or signal.universe not in rig.sent(frames):
        return Answer.NO_SIGNAL
    usual = PracticeRig(rig.show).arriving(line).get(check.stop, Signal(None))
    same = signal.universe in (line.universe, usual.universe)
    return Answer.SIGNAL if same else Answer.OTHER_UNIVERSE


def _node(rig: PracticeRig, check: Check) -> Evidence:
    box = next(box for box in rig.show.boxes if box.name == check.box)
    port = box.port(check.port)
    here = [
        fault
        for fault in rig.faults
        if fault.trouble in AT_A_BOX and fault.box == box.name and fault.port in (None, check.port)
    ]
    off = port is None or any(fault.trouble is Trouble.PORT_OFF for fault in here)
    if port is None or off:
        return Evidence(check, Answer.OFF)
    # in another network it is set as it should be, and gives nothing out
    apart = any(fault.trouble in GIVES_NOTHING for fault in here)
    given = given_by(box, port) if apart else rig.given(box, port)
    says = said_by(box, port) if given is None else number_on(box, given)
    return Evidence(check, Answer.OFF) if says is None else Evidence(check, Answer.SAYS, str(says))
