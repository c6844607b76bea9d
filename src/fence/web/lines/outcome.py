"""What a step would do to the lines, before it is made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate

from fence.core.checks import Analysis, Finding, Verdict, analyse, news
from fence.core.model.line import Cable, Device, Line
from fence.core.model.show import Show
from fence.core.setting.walk import again
from fence.web.address.rails import WIDE, asked_rails
from fence.web.lines.page import LineView, line_view

NEWS_SHOWN = 6
LISTED = 200
"""Lines of the table: what changes comes first."""
DRAWN = 12
STOPS_DRAWN = 120
"""Stops in all pictures together, after which no further line is drawn."""
ON_A_DESK, ON_A_PHONE = 7, 3
"""Stops in a row of a picture beside the form."""


@dataclass(frozen=True, slots=True)
class LineThen:
    """A line as it would be: what happens to it, what hangs on it, how much cable it takes (unknown
    cable runs beside)."""

    line: Line
    what: str
    fixtures: int
    splitters: int
    metres: float
    unknown: int


@dataclass(frozen=True, slots=True)
class LinesOutcome:
    """Lines beside what they would become: the first that change, then those that stay.

    ``drawn`` are the new and changed ones, the first of them.
    """

    before: Verdict
    after: Verdict
    lines: tuple[LineThen, ...]
    unlisted: int
    drawn: tuple[LineView, ...]
    undrawn: int
    new_findings: tuple[Finding, ...]
    again: str

    @property
    def changes(self) -> bool:
        """Whether anything would change."""
        return any(line.what != "stays" for line in self.lines)


def lines_outcome(before: Show, after: Show, now: Analysis) -> LinesOutcome:
    """Compare the lines of a show with what they would become."""
    then = analyse(after)
    columns = ON_A_DESK if asked_rails() == WIDE else ON_A_PHONE
    held = {line.id: line for line in before.lines}
    fresh = [line for line in after.lines if held.get(line.id) != line]
    found = [(line, "changes" if line.id in held else "new") for line in fresh]
    found += [(line, "goes") for line in before.lines if line.id not in after.line_by_id]
    found += [(line, "stays") for line in after.lines if held.get(line.id) == line]
    fresh = [line for line in fresh if line.stops]
    drawn = _first(fresh)
    return LinesOutcome(
        now.verdict,
        then.verdict,
        tuple(_line(line, what) for line, what in found[:LISTED]),
        max(0, len(found) - LISTED),
        tuple(line_view(after, then, line, columns, None) for line in drawn),
        len(fresh) - len(drawn),
        tuple(news(now.findings, then.findings))[:NEWS_SHOWN],
        again(before, after).told,
    )


def _first(lines: Sequence[Line]) -> list[Line]:
    """The lines that are drawn: the first one, and as many after it as there is room for."""
    stops = accumulate(len(line.stops) for line in lines)
    return [
        line for line, reached in zip(lines[:DRAWN], stops, strict=False) if reached <= STOPS_DRAWN
    ] or list(lines[:1])


def _line(line: Line, what: str) -> LineThen:
    return LineThen(
        line,
        what,
        sum(stop.fixture is not None for stop in line.stops),
        sum(stop.device is Device.SPLITTER for stop in line.stops),
        sum(stop.length or 0 for stop in line.stops if stop.cable is not Cable.WIRELESS),
        sum(stop.length is None for stop in line.stops if stop.cable is not Cable.WIRELESS),
    )
