"""Ways out of a finding about a line."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

from fence.core.checks import Finding
from fence.core.edits import cabling
from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.show import Show
from fence.core.model.wiring import LOAD_OF_A_DEVICE, length_of, name_of, wiring_of

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
    SECOND_TRANSMITTER = "second transmitter"
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


@dataclass(frozen=True, slots=True)
class _Place:
    """Where a finding stands: the line, the stop and what the stop is called."""

    show: Show
    finding: Finding
    line: Line
    stop: Stop

    @property
    def name(self) -> str:
        return name_of(self.show, self.stop)

    def mend(self, text: str, why: str, way: Way, *fixtures: int) -> LineMend:
        return LineMend(text, why, LineStep(way, self.line.id, self.stop.id, fixtures))


def line_mends(show: Show, finding: Finding) -> Iterator[LineMend]:
    """The ways out of a finding about a line, the first the one to take as a rule."""
    if finding.rule == "not-on-line":
        yield from _ways_on(show, finding)
        return
    line = show.line_by_id.get(finding.line_id) if finding.line_id is not None else None
    if line is None or finding.stop is None:
        return
    stop = wiring_of(line).by_id.get(finding.stop)
    if stop is not None and finding.rule in _WAYS:
        yield from _WAYS[finding.rule](_Place(show, finding, line, stop))


def _ends(at: _Place) -> Iterator[LineMend]:
    words = "120 ohm across data− and data+, in the last device."
    yield at.mend(f"Terminate behind {at.name}", words, Way.TERMINATE)


def _one_end_too_many(at: _Place) -> Iterator[LineMend]:
    yield at.mend(f"Take the {at.name} out", "Only the end keeps one.", Way.TAKE_OFF)


def _plugs_meet(at: _Place) -> Iterator[LineMend]:
    yield at.mend(f"Put an adapter before {at.name}", "So the plugs meet.", Way.ADAPTER)


def _data_cable(at: _Place) -> Iterator[LineMend]:
    yield at.mend(f"Use DMX cable to {at.name}", "Made for 120 ohm.", Way.DMX_CABLE)


def _fewer_loads(at: _Place) -> Iterator[LineMend]:
    yield from _divided_at(at, _halfway(at.show, at.line, at.stop))


def _fewer_metres(at: _Place) -> Iterator[LineMend]:
    yield from _divided_at(at, _far_half(at.line, at.stop))


def _divided_at(at: _Place, stop: Stop | None) -> Iterator[LineMend]:
    """A splitter before a stop, so that what is behind it is driven anew."""
    if stop is not None:
        words = "It drives the rest as a section of its own."
        text = f"Put a boosted splitter before {name_of(at.show, stop)}"
        yield LineMend(text, words, LineStep(Way.SPLITTER, at.line.id, stop.id))


def _on_its_universe(at: _Place) -> Iterator[LineMend]:
    """Onto a line of the universe that it is planned for, or off this one."""
    fixture = at.stop.fixture
    if fixture is None:
        return
    hung = {
        line.universe for line in at.show.lines for held in line.stops if held.fixture == fixture
    }
    planned = set(at.show.universes_of(at.show.fixture(fixture))) - hung
    if target := next((line for line in at.show.lines if line.universe in planned), None):
        words = f"It carries U{target.universe}."
        yield at.mend(f"Hang {at.name} on {target.name}", words, Way.REHANG, fixture)
    yield at.mend(f"Take {at.name} off {at.line.name}", "It stays in the rig.", Way.TAKE_OFF)


def _off_the_line(at: _Place) -> Iterator[LineMend]:
    yield at.mend(f"Take {at.name} off {at.line.name}", "", Way.TAKE_OFF)


def _branches_driven(at: _Place) -> Iterator[LineMend]:
    yield from _apart(at.show, at.line, at.stop, at.finding.about)


def _driven_half_way(at: _Place) -> Iterator[LineMend]:
    words = "A driver in the middle makes two cable runs of it."
    yield at.mend(f"Put a driver half way to {at.name}", words, Way.HALF_WAY)


def _one_that_passes_rdm(at: _Place) -> Iterator[LineMend]:
    words = "Fixtures behind it answer then."
    yield at.mend(f"Use one that passes RDM for {at.name}", words, Way.PASSES_RDM)


def _linked_to_one(at: _Place) -> Iterator[LineMend]:
    """A channel of its own for a transmitter; nothing for one that itself hears another by
    wireless."""
    if not (at.stop.device is Device.TRANSMITTER and at.stop.cable is Cable.WIRELESS):
        words = "One channel for a transmitter and all that hear it."
        channel = _link_for(at.show, at.line, at.stop)
        yield at.mend(f"Link {at.name} to channel {channel}", words, Way.LINK)


def _one_more_sender(at: _Place) -> Iterator[LineMend]:
    text = f"Put a second transmitter behind {at.name}"
    yield at.mend(text, "It takes those beyond.", Way.SECOND_TRANSMITTER)


_WAYS: Mapping[str, Callable[[_Place], Iterator[LineMend]]] = {
    "unterminated": _ends,
    "double-terminated": _one_end_too_many,
    "connector-mismatch": _plugs_meet,
    "audio-cable": _data_cable,
    "line-load": _fewer_loads,
    "line-length": _fewer_metres,
    "universe-mixed": _on_its_universe,
    "twice-on-line": _off_the_line,
    "split-passive": _branches_driven,
    "hop-length": _driven_half_way,
    "rdm-path": _one_that_passes_rdm,
    "wireless-channel": _linked_to_one,
    "wireless-receivers": _one_more_sender,
}


def _ways_on(show: Show, finding: Finding) -> Iterator[LineMend]:
    """Lines of their universe, for fixtures on none."""
    for line in show.lines:
        if line.universe is not None and finding.universe == line.universe:
            text = f"Hang them on {line.name}, behind its last stop"
            yield LineMend(
                text,
                "It carries their universe.",
                LineStep(Way.HANG_ON, line.id, 0, finding.fixtures),
            )


def _apart(show: Show, line: Line, stop: Stop, about: str) -> Iterator[LineMend]:
    """Ways to give each cable an output that drives it."""
    if about == "source":
        text = "Put a boosted splitter at the source"
        yield LineMend(text, "A section for each cable.", LineStep(Way.DRIVER, line.id, 0))
    elif about in ("outputs", "one output"):
        splitter = stop if about == "outputs" else wiring_of(line).by_id[stop.after or stop.id]
        text = f"Give each cable at {name_of(show, splitter)} an output of its own"
        yield LineMend(
            text, "The first ones that are free.", LineStep(Way.OUTPUTS, line.id, splitter.id)
        )
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
    """The channel of the transmitter that a receiver hears; for a transmitter the first number that
    no other one has."""
    before = wiring_of(line).by_id.get(stop.after) if stop.after is not None else None
    if stop.cable is Cable.WIRELESS and before is not None and before.link:
        return before.link
    taken = {
        held.link
        for other in show.lines
        for held in other.stops
        if held.device is Device.TRANSMITTER
    }
    return next(str(number) for number in range(1, len(taken) + 2) if str(number) not in taken)


def _halfway(show: Show, line: Line, first: Stop) -> Stop | None:
    """Where a crowded section is best divided: the first stop behind half of what one driver
    feeds."""
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
    return _TAKEN[step.way](show, step)


def _linked(show: Show, step: LineStep) -> Show:
    """A stop on the channel where it belongs; those that hear a transmitter go with it."""
    line = show.line(step.line)
    stop = wiring_of(line).by_id[step.stop]
    ears = [
        child.id
        for child in wiring_of(line).children.get(stop.id, ())
        if child.cable is Cable.WIRELESS
    ]
    return cabling.set_links(show, line.id, [stop.id, *ears], _link_for(show, line, stop))


def _with_adapter(show: Show, step: LineStep) -> Show:
    return cabling.insert(show, step.line, Device.ADAPTER, before=step.stop, label="adapter")


def _with_splitter(show: Show, step: LineStep) -> Show:
    return cabling.insert(
        show, step.line, Device.SPLITTER, before=step.stop, label="splitter", outputs=4
    )


_TAKEN: Mapping[Way, Callable[[Show, LineStep], Show]] = {
    Way.TERMINATE: lambda show, step: cabling.terminate(show, step.line, step.stop),
    Way.TAKE_OFF: lambda show, step: cabling.take_off(show, step.line, [step.stop]),
    Way.ADAPTER: _with_adapter,
    Way.SPLITTER: _with_splitter,
    Way.DRIVER: lambda show, step: cabling.drive_at(show, step.line, step.stop or None),
    Way.OUTPUTS: lambda show, step: cabling.spread_outputs(show, step.line, step.stop),
    Way.HALF_WAY: lambda show, step: cabling.half_way(show, step.line, step.stop),
    Way.PASSES_RDM: lambda show, step: cabling.pass_rdm(show, step.line, step.stop),
    Way.LINK: _linked,
    Way.SECOND_TRANSMITTER: lambda show, step: cabling.second_transmitter(
        show, step.line, step.stop
    ),
    Way.REHANG: lambda show, step: cabling.hang_anew(show, step.fixtures),
    Way.HANG_ON: lambda show, step: cabling.chain(show, step.line, step.fixtures),
    Way.DMX_CABLE: lambda show, step: cabling.set_cable(show, step.line, [step.stop], Cable.DMX),
}
