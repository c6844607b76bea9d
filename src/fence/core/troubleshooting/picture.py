"""The lines of a search as a picture: how suspect each device and each cable run is, what is
cleared, and where the next check is."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.line import Cable, Line
from fence.core.model.show import Show
from fence.core.model.wiring import Wiring, name_of, wiring_of
from fence.core.simulation.faults import OF_A_RUN
from fence.core.troubleshooting.evidence import Answer, Check
from fence.core.troubleshooting.search import Finding

MOST_CHAINS = 2
COUNTED = 400
CLEARING = {Answer.RIGHT, Answer.SIGNAL}


@dataclass(frozen=True, slots=True)
class Link:
    """A device on a line with the run that leads to it: how suspect both are in percent, whether
    something was right there, and whether the next check is there. ``behind`` devices follow it
    that hang on it."""

    name: str
    stop: int
    wired: bool
    fixture: int | None
    behind: int
    run: int
    device: int
    cleared: bool
    next: bool

    @property
    def most(self) -> int:
        """The greater of both, in percent."""
        return max(self.run, self.device)


@dataclass(frozen=True, slots=True)
class Chain:
    """A line by its id and name from its source on; ``source`` is what it starts at, with its own
    suspicion. On one that is only drawn, nothing is suspected yet."""

    line: int
    name: str
    source: str
    suspected: int
    next: bool
    links: tuple[Link, ...]


def plain_chain(show: Show, line: Line) -> Chain:
    """A line before anything was seen."""
    return _chain(show, line, wiring_of(line), {}, set(), None)


def chains_of(finding: Finding, asked: Check | None, wanted: Line | None = None) -> list[Chain]:
    """The lines on which what was looked at hangs, those with the next check first; the one that is
    wanted before them."""
    shares: dict[tuple[str, object], float] = {}
    for faults, share in finding.belief.best(COUNTED):
        for fault in faults:
            if fault.trouble in OF_A_RUN and fault.line:
                key: tuple[str, object] = ("run", (fault.line, fault.stop))
            elif fault.fixture is not None:
                key = ("fixture", fault.fixture)
            elif fault.box:
                key = ("box", (fault.box, fault.port))
            elif fault.line and fault.stop is not None:
                key = ("device", (fault.line, fault.stop))
            else:
                key = ("line", fault.line)
            shares[key] = shares.get(key, 0.0) + share
    cleared = {
        (one.check.fixture, one.check.line, one.check.stop)
        for one in finding.belief.evidence
        if one.answer in CLEARING
    }
    lines = [one for one in _lines(finding, asked) if one != wanted]
    lines = ([wanted] if wanted else []) + lines
    wiring = finding.search.foresight.wiring
    return [
        _chain(finding.search.show, line, wiring(line.name), shares, cleared, asked)
        for line in lines[:MOST_CHAINS]
    ]


def _lines(finding: Finding, asked: Check | None) -> list[Line]:
    foresight = finding.search.foresight
    checks = [asked] if asked else []
    checks += [one.check for one in reversed(finding.belief.evidence)]
    found: dict[int, Line] = {}
    for check in checks:
        if check.line and check.line in foresight.line_by_name:
            line = foresight.line_by_name[check.line]
            found[line.id] = line
        for line, _ in foresight.ways.get(check.fixture, ()):
            found[line.id] = line
    return list(found.values())


def _chain(
    show: Show,
    line: Line,
    wiring: Wiring,
    shares: dict[tuple[str, object], float],
    cleared: set[tuple[int, str, int]],
    asked: Check | None,
) -> Chain:
    box = show.box_by_id.get(line.source.box) if line.source else None
    port = line.source.port if line.source else None

    def percent(*keys: tuple[str, object]) -> int:
        return round(100 * sum(shares.get(key, 0.0) for key in keys))

    links = []
    for stop in wiring.behind(None):
        here = asked is not None and (
            (asked.line, asked.stop) == (line.name, stop.id)
            or (asked.fixture != 0 and asked.fixture == stop.fixture)
        )
        links.append(
            Link(
                name_of(show, stop),
                stop.id,
                stop.cable is not Cable.WIRELESS,
                stop.fixture,
                sum(1 for _ in wiring.behind(stop.id)),
                percent(("run", (line.name, stop.id))),
                percent(("fixture", stop.fixture), ("device", (line.name, stop.id)))
                if stop.fixture
                else percent(("device", (line.name, stop.id))),
                (0, line.name, stop.id) in cleared or (stop.fixture or -1, "", 0) in cleared,
                here,
            )
        )
    source = f"{box.name} port {port}" if box else "the desk"
    suspected = percent(("box", (box.name, port)), ("box", (box.name, None))) if box else 0
    at_source = bool(asked and box and (asked.box, asked.port) == (box.name, port))
    return Chain(line.id, line.name, source, suspected, at_source, tuple(links))
