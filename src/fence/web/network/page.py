"""The Network page as values."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.checks import Analysis, Finding
from fence.core.model.box import Box, BoxKind, Port
from fence.core.model.line import Line
from fence.core.model.network import (
    RATE,
    desk_of,
    load_on,
    number_on,
    outlets,
    said_by,
    universe_said,
)
from fence.core.model.show import Show
from fence.core.network.card import BoxCard, PortRow, card_of
from fence.web.findings.problem import Problem, problem_of
from fence.web.network.drawing import Measures, NetworkDrawing, draw_network

BOXES_DRAWN = 12
PROBLEMS_SHOWN = 12
CHOICES = 2000


@dataclass(frozen=True, slots=True)
class PickedPort:
    """The picked port: what is planned, what it says, what it feeds."""

    port: Port
    row: PortRow
    number: int | None
    says: int | None
    gives: int | None
    lines: tuple[Line, ...]
    loose: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class PickedUniverse:
    """The picked universe and the ports that give it out."""

    number: int
    fixtures: int
    given: tuple[tuple[Box, Port], ...]


@dataclass(frozen=True, slots=True)
class NetworkPage:
    """The step."""

    drawing: NetworkDrawing
    folded: tuple[Box, ...]
    box: Box | None
    port: PickedPort | None
    universe: PickedUniverse | None
    card: BoxCard | None
    problems: tuple[Problem, ...]
    universes: int
    ports: int
    spare: int
    load: float
    wire: float
    boxes: int
    choices: tuple[int, ...]


def network_page(
    show: Show,
    analysis: Analysis,
    measures: Measures,
    box_id: int | None,
    port: int | None,
    universe: int | None,
) -> NetworkPage:
    """Put the page together; what was asked for and is not there any more is left out."""
    findings = [finding for finding in analysis.findings if finding.box is not None]
    box = show.box_by_id.get(box_id or 0)
    picked = box.port(port) if box and port is not None else None
    chosen = universe if universe in show.universe_by_number or universe in show.carried else None
    desk = desk_of(show)
    beside = [held for held in show.boxes if held is not desk or held.ports]
    troubled = {finding.box for finding in findings if finding.severity != "note"}
    ranked = sorted(beside, key=lambda held: (held is not box, held.name not in troubled))[
        :BOXES_DRAWN
    ]
    shown = [held for held in beside if held in ranked]
    drawing = draw_network(
        show,
        findings,
        shown,
        measures,
        box_id=box.id if box else None,
        port=picked.number if picked else None,
        universe=chosen if box is None else None,
    )
    outs = list(outlets(show))
    return NetworkPage(
        drawing,
        tuple(held for held in beside if held not in shown),
        box,
        _picked(show, box, picked) if box and picked else None,
        _universe(show, chosen) if chosen is not None and box is None else None,
        card_of(show, box) if box else None,
        _problems(show, findings, box, picked, chosen if box is None else None),
        len(show.carried),
        len(outs),
        sum(outlet.port.universe is None for outlet in outs),
        load_on(show, desk) if desk else RATE * len(show.carried),
        desk.speed if desk else 100,
        sum(held.kind is BoxKind.NODE for held in show.boxes),
        tuple(sorted({*show.universe_by_number, *show.carried}))[:CHOICES],
    )


def _problems(
    show: Show, findings: list[Finding], box: Box | None, port: Port | None, universe: int | None
) -> tuple[Problem, ...]:
    """What is wrong with what is picked; with nothing picked all that is. A port shows its box's
    too."""
    if box is None:
        about = [f for f in findings if universe is None or f.universe == universe]
    else:
        here = [finding for finding in findings if finding.box == box.name]
        own = [finding for finding in here if port is not None and finding.port == port.number]
        about = [*own, *(f for f in here if f.port is None)] if port is not None else here
    about = [
        finding
        for finding in about
        if finding.severity != "note" or box is not None or universe is not None
    ]
    return tuple(problem_of(show, f) for f in about[:PROBLEMS_SHOWN])


def _picked(show: Show, box: Box, port: Port) -> PickedPort:
    row = next(row for row in card_of(show, box).rows if row.port is port)
    says = said_by(box, port)
    here = [
        line
        for line in show.lines
        if line.source and (line.source.box, line.source.port) == (box.id, port.number)
    ]
    return PickedPort(
        port,
        row,
        number_on(box, port.universe) if port.universe is not None else None,
        says,
        universe_said(box, says) if says is not None else port.universe,
        tuple(here),
        tuple(line for line in show.lines if line not in here),
    )


def _universe(show: Show, number: int) -> PickedUniverse:
    given = tuple(
        (outlet.box, outlet.port) for outlet in outlets(show) if outlet.port.universe == number
    )
    return PickedUniverse(number, show.carried.get(number, 0), given)
