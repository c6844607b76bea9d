"""Ways out of a finding about a line."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from fence.core.changes import cabling
from fence.core.checks import Finding
from fence.core.words.line import Cable, Device, Line, Stop
from fence.core.words.show import Show
from fence.core.words.wiring import LOAD_OF_A_DEVICE, length_of, name_of, wiring_of

HALF = 16
"""After so many loads a splitter is put into a crowded section."""


class Way(StrEnum):
    """What is done at a stop of a line."""

    TERMINATE = "terminate"
    TAKE_OFF = "take off"
    ADAPTER = "adapter"
    SPLITTER = "splitter"
    DMX_CABLE = "dmx cable"
    DRIVER = "driver"
    OUTPUTS = "outputs"
    HALF_WAY = "half way"
    PASSES_RDM = "passes rdm"
    LINK = "link"
    SECOND_SENDER = "second sender"
    HANG_ON = "hang on"
    REHANG = "rehang"


@dataclass(frozen=True, slots=True)
class LineStep:
    """A step on a line that mends a finding; ``stop`` 0 is its source."""

    way: Way
    line: int
    stop: int
    fixtures: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class LineMend:
    """A way out: what it does, in words, why this one, and the step itself."""

    text: str
    why: str
    step: LineStep


def line_mends(show: Show, finding: Finding) -> Iterator[LineMend]:
    """The ways out of a finding about a line, the first the one to take as a rule."""
    if finding.rule == "not-on-line":
        yield from _ways_on(show, finding)
        return
    line = show.line_by_id.get(finding.line_id) if finding.line_id is not None else None
    if line is None or finding.stop is None:
        return
    stop = wiring_of(line).by_id.get(finding.stop)
    if stop is None:
        return
    name = name_of(show, stop)
    if finding.rule == "unterminated":
        words = "120 ohm across data− and data+, in the last device."
        yield LineMend(f"Terminate behind {name}", words, LineStep(Way.TERMINATE, line.id, stop.id))
    elif finding.rule == "double-terminated":
        yield LineMend(f"Take the {name} out", "Only the end keeps one.", LineStep(Way.TAKE_OFF, line.id, stop.id))
    elif finding.rule == "connector-mismatch":
        yield LineMend(f"Put an adapter before {name}", "So the plugs meet.", LineStep(Way.ADAPTER, line.id, stop.id))
    elif finding.rule == "audio-cable":
        words = "Made for 120 ohm."
        yield LineMend(f"Use DMX cable to {name}", words, LineStep(Way.DMX_CABLE, line.id, stop.id))
    elif finding.rule == "line-load":
        if crowded := _halfway(show, line, stop):
            words = "It drives the rest as a section of its own."
            text = f"Put a boosted splitter before {name_of(show, crowded)}"
            yield LineMend(text, words, LineStep(Way.SPLITTER, line.id, crowded.id))
    elif finding.rule == "universe-mixed" and stop.fixture is not None:
        hung = {other.universe for other in show.lines for held in other.stops if held.fixture == stop.fixture}
        planned = set(show.universes_of(show.fixture(stop.fixture))) - hung
        if target := next((other for other in show.lines if other.universe in planned), None):
            words = f"It carries U{target.universe}."
            yield LineMend(
                f"Hang {name} on {target.name}", words, LineStep(Way.REHANG, line.id, stop.id, (stop.fixture,))
            )
        yield LineMend(f"Take {name} off {line.name}", "It stays in the rig.", LineStep(Way.TAKE_OFF, line.id, stop.id))
    elif finding.rule == "split-passive":
        yield from _apart(show, line, stop, finding.about)
    elif finding.rule == "hop-length":
        words = "A driver in the middle makes two hops of it."
        yield LineMend(f"Put a driver half way to {name}", words, LineStep(Way.HALF_WAY, line.id, stop.id))
    elif finding.rule == "line-length":
        if far := _far_half(line, stop):
            words = "It drives the rest as a section of its own."
            text = f"Put a boosted splitter before {name_of(show, far)}"
            yield LineMend(text, words, LineStep(Way.SPLITTER, line.id, far.id))
    elif finding.rule == "rdm-path":
        words = "Fixtures behind it answer then."
        yield LineMend(f"Use one that passes RDM for {name}", words, LineStep(Way.PASSES_RDM, line.id, stop.id))
    elif finding.rule == "wireless-channel" and not (stop.device is Device.SENDER and stop.cable is Cable.AIR):
        words = "One channel for a sender and all that hear it."
        yield LineMend(
            f"Link {name} to channel {_link_for(show, line, stop)}", words, LineStep(Way.LINK, line.id, stop.id)
        )
    elif finding.rule == "wireless-receivers":
        text = f"Put a second sender behind {name}"
        yield LineMend(text, "It takes those beyond.", LineStep(Way.SECOND_SENDER, line.id, stop.id))
    elif finding.rule == "twice-on-line":
        yield LineMend(f"Take {name} off {line.name}", "", LineStep(Way.TAKE_OFF, line.id, stop.id))


def _ways_on(show: Show, finding: Finding) -> Iterator[LineMend]:
    """Lines of their universe, for fixtures on none."""
    for line in show.lines:
        if line.universe is not None and finding.universe == line.universe:
            text = f"Hang them on {line.name}, behind its last stop"
            yield LineMend(text, "It carries their universe.", LineStep(Way.HANG_ON, line.id, 0, finding.fixtures))


def _apart(show: Show, line: Line, stop: Stop, about: str) -> Iterator[LineMend]:
    """Ways to give each cable an output that drives it."""
    if about == "source":
        text = "Put a boosted splitter at the source"
        yield LineMend(text, "A section for each cable.", LineStep(Way.DRIVER, line.id, 0))
    elif about in ("outputs", "one output"):
        splitter = stop if about == "outputs" else wiring_of(line).by_id[stop.after or stop.id]
        text = f"Give each cable at {name_of(show, splitter)} an output of its own"
        yield LineMend(text, "The first ones that are free.", LineStep(Way.OUTPUTS, line.id, splitter.id))
    else:
        text = f"Drive the branches at {name_of(show, stop)}"
        yield LineMend(text, "A section each.", LineStep(Way.DRIVER, line.id, stop.id))


def _far_half(line: Line, first: Stop) -> Stop | None:
    """The first stop behind more than half of the metres of a section."""
    section = next((s for s in wiring_of(line).sections if first in s.stops), None)
    total, metres = length_of(section) if section else 0.0, 0.0
    for stop in section.stops if section else ():
        metres += stop.length or 0
        if metres > total / 2 and stop.fixture is not None:
            return stop
    return None


def _link_for(show: Show, line: Line, stop: Stop) -> str:
    """The channel of the sender that a receiver hears; for a sender the first number that no other one has."""
    before = wiring_of(line).by_id.get(stop.after) if stop.after is not None else None
    if stop.cable is Cable.AIR and before is not None and before.link:
        return before.link
    taken = {held.link for other in show.lines for held in other.stops if held.device is Device.SENDER}
    return next(str(number) for number in range(1, len(taken) + 2) if str(number) not in taken)


def _halfway(show: Show, line: Line, first: Stop) -> Stop | None:
    """Where a crowded section is best divided: the first stop behind half of what one driver feeds."""
    section = next((s for s in wiring_of(line).sections if first in s.stops), None)
    loads = 0.0
    for stop in section.stops if section else ():
        if loads >= HALF and stop.fixture is not None:
            return stop
        fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
        profile = show.profile_of(fixture) if fixture else None
        loads += profile.unit_load if profile else LOAD_OF_A_DEVICE
    return None


def take(show: Show, step: LineStep) -> Show:
    """The show after a step. Raises ``EditError`` where an edit would."""
    match step.way:
        case Way.TERMINATE:
            return cabling.terminate(show, step.line, step.stop)
        case Way.TAKE_OFF:
            return cabling.take_off(show, step.line, [step.stop])
        case Way.ADAPTER:
            return cabling.insert(show, step.line, Device.ADAPTER, before=step.stop, label="adapter")
        case Way.SPLITTER:
            return cabling.insert(show, step.line, Device.SPLITTER, before=step.stop, label="splitter", outputs=4)
        case Way.DRIVER:
            return cabling.drive_at(show, step.line, step.stop or None)
        case Way.OUTPUTS:
            return cabling.spread_outputs(show, step.line, step.stop)
        case Way.HALF_WAY:
            return cabling.half_way(show, step.line, step.stop)
        case Way.PASSES_RDM:
            return cabling.pass_rdm(show, step.line, step.stop)
        case Way.LINK:
            return _linked(show, step)
        case Way.SECOND_SENDER:
            return cabling.second_sender(show, step.line, step.stop)
        case Way.REHANG:
            return cabling.hang_anew(show, step.fixtures)
        case Way.HANG_ON:
            return cabling.chain(show, step.line, step.fixtures)
        case Way.DMX_CABLE:
            return cabling.set_cable(show, step.line, [step.stop], Cable.DMX)


def _linked(show: Show, step: LineStep) -> Show:
    """A stop on the channel where it belongs; those that hear a sender go with it."""
    line = show.line(step.line)
    stop = wiring_of(line).by_id[step.stop]
    ears = [child.id for child in wiring_of(line).children.get(stop.id, ()) if child.cable is Cable.AIR]
    return cabling.set_links(show, line.id, [stop.id, *ears], _link_for(show, line, stop))
