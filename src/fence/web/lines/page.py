"""The Lines page as values."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.checks import Analysis
from fence.core.checks.lines import MOST_LOADS
from fence.core.lines.bring import PullList, pull_list
from fence.core.model.battery import battery_day, packs_of
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Line, Stop
from fence.core.model.show import Show
from fence.core.model.wiring import (
    Section,
    fixtures_behind,
    length_of,
    load_of,
    name_of,
    wiring_of,
    without_power,
    worst_break,
)
from fence.web.findings.problem import Problem, problem_of
from fence.web.lines.drawing import LineDrawing, draw_line

LINES_SHOWN = 24
NAMES_SHOWN = 12
OTHERS = 500


@dataclass(frozen=True, slots=True)
class Gauge:
    """The load of a driven section out of 32, and its length in metres."""

    name: str
    loads: float
    of: int
    metres: float
    unknown: int

    @property
    def bars(self) -> int:
        """Lit marks of the gauge."""
        return min(self.of, round(self.loads))


@dataclass(frozen=True, slots=True)
class LineView:
    """A line on the page."""

    line: Line
    drawing: LineDrawing
    gauges: tuple[Gauge, ...]
    fixtures: int


@dataclass(frozen=True, slots=True)
class PickedStop:
    """The picked stop and the cable run that leads to it."""

    line: Line
    stop: Stop
    name: str
    before: str
    fixture: Fixture | None
    from_source: float
    at_least: bool
    open_end: bool
    reason: str
    behind: tuple[str, ...]
    dark: int
    unpowered: int
    others: tuple[tuple[int, str], ...]
    problems: tuple[Problem, ...]


@dataclass(frozen=True, slots=True)
class LinesPage:
    """The step."""

    views: tuple[LineView, ...]
    folded: tuple[Line, ...]
    picked: PickedStop | None
    current: Line | None
    problems: tuple[Problem, ...]
    loose: tuple[Fixture, ...]
    pull: PullList
    worst: tuple[str, str, int] | None
    open_ends: tuple[tuple[str, str], ...]


def lines_page(
    show: Show, analysis: Analysis, columns: int, line_id: int | None, stop_id: int | None
) -> LinesPage:
    """Put the page together; what was asked for and is not there any more is left out."""
    current = show.line_by_id.get(line_id or 0)
    picked = _picked(show, analysis, current, stop_id) if current else None
    first = [current] if current else []
    shown = [*first, *(line for line in show.lines if line is not current)][:LINES_SHOWN]
    views = tuple(
        line_view(show, analysis, line, columns, picked) for line in show.lines if line in shown
    )
    hung = {stop.fixture for line in show.lines for stop in line.stops}
    loose = tuple(f for f in show.fixtures if f.id not in hung and any(show.footprints_of(f)))
    return LinesPage(
        views,
        tuple(line for line in show.lines if line not in shown),
        picked,
        current,
        _problems(show, analysis, current, None) if current and not picked else (),
        loose,
        pull_list(show),
        _worst(show),
        reasons_of(show, current) if current else (),
    )


def reasons_of(show: Show, line: Line) -> tuple[tuple[str, str], ...]:
    """The open ends of a line by name, each with why it is left so; empty where nobody has said."""
    wiring = wiring_of(line)
    return tuple((name_of(show, end), wiring.reason_for(end)) for end in wiring.open_ends)


def _problems(
    show: Show, analysis: Analysis, line: Line, stop_id: int | None
) -> tuple[Problem, ...]:
    found = [
        finding
        for finding in analysis.findings
        if finding.line_id == line.id and stop_id in (None, finding.stop)
    ]
    return tuple(problem_of(show, finding) for finding in found[:12])


def line_view(
    show: Show, analysis: Analysis, line: Line, columns: int, picked: PickedStop | None
) -> LineView:
    wiring = wiring_of(line)
    here = picked if picked and picked.line is line else None
    dark = {here.stop.id, *(stop.id for stop in wiring.behind(here.stop.id))} if here else set()
    trouble: dict[int, str] = {}
    for finding in analysis.findings:
        if finding.line_id == line.id and finding.stop is not None:
            trouble.setdefault(finding.stop, str(finding.severity))
    gauges = tuple(
        Gauge(_driver(show, s), load_of(show, s), MOST_LOADS, length_of(s), _unknown(s))
        for s in wiring.sections
        if s.wired
    )
    drawing = draw_line(
        show,
        line,
        columns,
        picked=here.stop.id if here else None,
        dark=dark,
        trouble=trouble,
        batteries=_left(show, line),
    )
    return LineView(
        line, drawing, gauges, sum(1 for stop in line.stops if stop.fixture is not None)
    )


def _left(show: Show, line: Line) -> dict[int, float]:
    """What is left at the end of the day in the batteries of a line's fixtures, as a share."""
    if show.day is None:
        return {}
    here = {stop.fixture for stop in line.stops}
    plan = battery_day(
        [pack for pack in packs_of(show) if pack.fixture in here and pack.fixture], show.day
    )
    return {held.pack.fixture: held.left[0] for held in plan.packs if held.pack.fixture is not None}


def _driver(show: Show, section: Section) -> str:
    if section.driver is None:
        return "source"
    return name_of(show, section.driver) + (f" output {section.output}" if section.output else "")


def _unknown(section: Section) -> int:
    return sum(
        1 for stop in section.stops if stop.cable is not Cable.WIRELESS and stop.length is None
    )


def _picked(show: Show, analysis: Analysis, line: Line, stop_id: int | None) -> PickedStop | None:
    wiring = wiring_of(line)
    stop = wiring.by_id.get(stop_id or 0)
    if stop is None:
        return None
    behind = fixtures_behind(show, line, stop.id)
    return PickedStop(
        line,
        stop,
        name_of(show, stop),
        name_of(show, wiring.by_id[stop.after]) if stop.after is not None else "source",
        show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None,
        wiring.from_source(stop.id),
        any(
            held.length is None and held.cable is not Cable.WIRELESS
            for held in wiring.path_to(stop.id)
        ),
        stop in wiring.open_ends,
        wiring.reason_for(stop),
        tuple(show.fixture(fixture_id).label for fixture_id in behind[:NAMES_SHOWN]),
        len(behind),
        len(without_power(show, line, stop.id)),
        tuple((s.id, name_of(show, s)) for s in line.stops if s is not stop and not s.terminates)[
            :OTHERS
        ],
        _problems(show, analysis, line, stop.id),
    )


def _worst(show: Show) -> tuple[str, str, int] | None:
    """The break behind a first stop that takes the most fixtures: its line, the stop it leads to,
    how many."""
    found = [(line, worst) for line in show.lines if (worst := worst_break(show, line))]
    if not found:
        return None
    line, (stop, lost) = max(found, key=lambda entry: len(entry[1][1]))
    return line.name, name_of(show, stop), len(lost)
