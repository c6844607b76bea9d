"""The network as a picture: the desk's universes as boards, ropes to the gates of the boxes. Plain
numbers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fence.core.checks import Finding, Severity
from fence.core.checks.network import ALL_OFF, off_alike
from fence.core.model.box import Box, BoxKind, Port, Use
from fence.core.model.network import called, desk_of, said_by
from fence.core.model.show import Show
from fence.core.model.text import counted

HUES = 10
GATE_PITCH = 92
HEAD = 62
ENDS_A_ROPE = frozenset({"address-clash", "subnet", "bad-host", "protocol"})
"""Rules of a box that keep every universe from arriving there."""
BOARDS_SHOWN = 40
LETTER = 8
"""Width that a letter of a name is taken to have."""


@dataclass(frozen=True, slots=True)
class Measures:
    """Where things stand: a wide picture has the boxes beside the desk, a narrow one below it
    without ropes."""

    width: int
    desk_width: int
    boards: int
    board: int
    box_left: int
    box_width: int
    gates: int

    @property
    def roped(self) -> bool:
        """Whether ropes are drawn."""
        return self.box_left > 0


WIDE = Measures(830, 214, 1, 44, 404, 424, 4)
NARROW = Measures(356, 354, 2, 44, 0, 354, 4)


@dataclass(frozen=True, slots=True)
class Board:
    """A universe that the desk sends."""

    universe: int
    name: str
    under: str
    hue: int
    x: int
    y: int
    width: int
    lost: bool
    picked: bool
    label: str


@dataclass(frozen=True, slots=True)
class Gate:
    """A port: the number that Fence has, below it what the box says."""

    port: int
    head: str
    title: str
    under: str
    label: str
    hue: int
    x: int
    y: int
    width: int
    kind: str
    trouble: str
    picked: bool


@dataclass(frozen=True, slots=True)
class BoxPicture:
    """A box with its gates."""

    box: Box
    name: str
    address: str
    facts: str
    says: str
    label: str
    trouble: str
    x: int
    y: int
    width: int
    height: int
    gates: tuple[Gate, ...]
    picked: bool


@dataclass(frozen=True, slots=True)
class Rope:
    """From a board to a box; one that does not arrive is ``lost``."""

    path: str
    hue: int
    lost: bool


@dataclass(frozen=True, slots=True)
class NetworkDrawing:
    """The picture."""

    width: int
    height: int
    desk: Box | None
    desk_name: str
    desk_facts: tuple[str, ...]
    desk_width: int
    desk_height: int
    desk_trouble: str
    desk_picked: bool
    desk_label: str
    desk_licence: str
    boards: tuple[Board, ...]
    more_boards: int
    board_height: int
    boxes: tuple[BoxPicture, ...]
    ropes: tuple[Rope, ...]


def hue_of_universe(universe: int | None) -> int:
    """The number of a universe's colour, 0 for none; colours repeat after ten."""
    return 0 if universe is None else (universe - 1) % HUES + 1


def shorten(text: str, width: float) -> str:
    """A text that finds room in a width."""
    most = max(3, int(width / LETTER))
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"


class _Troubles:
    """The worst of what is said of each box and port."""

    def __init__(self, findings: Sequence[Finding], boxes: Mapping[int, Box]) -> None:
        self.boxes: dict[str, str] = {}
        self.ports: dict[tuple[str, int], str] = {}
        self.cut_off: set[str] = set()
        self.universes: set[int] = set()
        for finding in findings:
            if finding.box is None or finding.severity is Severity.NOTE:
                continue
            severity = str(finding.severity)
            if finding.port is not None:
                self.ports.setdefault((finding.box, finding.port), severity)
            elif finding.about == ALL_OFF and finding.box_id is not None:
                for port in off_alike(boxes[finding.box_id]):
                    self.ports.setdefault((finding.box, port.number), severity)
            elif finding.box:
                self.boxes.setdefault(finding.box, severity)
            if finding.severity is Severity.STOP:
                if finding.rule in ENDS_A_ROPE:
                    self.cut_off.add(finding.box)
                if finding.universe is not None and not finding.box:
                    self.universes.add(finding.universe)


def draw_network(
    show: Show,
    findings: Sequence[Finding],
    shown: Sequence[Box],
    measures: Measures,
    *,
    box_id: int | None = None,
    port: int | None = None,
    universe: int | None = None,
) -> NetworkDrawing:
    """Draw the desk and some of the boxes. What is picked is framed."""
    troubles = _Troubles(findings, show.box_by_id)
    desk = desk_of(show)
    sent = sorted(
        {
            *show.carried,
            *(p.universe for box in show.boxes for p in box.outputs if p.universe is not None),
        }
    )
    boards = _boards(show, sent[:BOARDS_SHOWN], troubles, measures, universe)
    below = max((board.y for board in boards), default=HEAD - 14) + measures.board + 12
    facts = _desk_facts(desk, len(sent))
    desk_height = below + 20 * len(facts) + (8 if facts else 0)
    top = 0 if measures.roped else desk_height + 14
    boxes: list[BoxPicture] = []
    for box in shown:
        drawn = _box(
            show, box, troubles, measures, top, box.id == box_id, port if box.id == box_id else None
        )
        boxes.append(drawn)
        top += drawn.height + 14
    return NetworkDrawing(
        measures.width,
        max(top, desk_height + 2),
        desk,
        shorten(desk.name, measures.desk_width - 60) if desk else "",
        tuple(facts),
        measures.desk_width,
        desk_height,
        troubles.boxes.get(desk.name, "") if desk else "",
        desk is not None and desk.id == box_id and port is None,
        _desk_label(desk, measures, facts, troubles),
        _licence_words(desk) if desk else "",
        tuple(boards),
        max(0, len(sent) - BOARDS_SHOWN),
        measures.board,
        tuple(boxes),
        tuple(_ropes(boards, boxes, troubles, measures)) if measures.roped else (),
    )


def _licence_words(desk: Box) -> str:
    """How many universes a desk may send."""
    if desk.sends is None:
        return "no licence limit noted"
    return f"may send {counted(desk.sends, 'universe')}"


def _desk_label(
    desk: Box | None, measures: Measures, facts: Sequence[str], troubles: _Troubles
) -> str:
    """All that is written on the desk's panel, as it is read out."""
    if desk is None:
        return ""
    name = f"Desk · {shorten(desk.name, measures.desk_width - 60)}"
    return _read_out([name, _licence_words(desk), *facts], troubles.boxes.get(desk.name, ""))


def _read_out(words: Sequence[str], trouble: str) -> str:
    return " ".join(filter(None, words)) + (f", {trouble}" if trouble else "")


def _desk_facts(desk: Box | None, sent: int) -> list[str]:
    if desk is None:
        return []
    if desk.sends is None:
        licence = f"sends {sent} universes"
    else:
        spare = desk.sends - sent
        licence = f"{spare} more can be sent" if spare >= 0 else f"may send {desk.sends} only"
    way = f"{desk.protocol.written}, {desk.way}" + (
        f", priority {desk.priority}" if desk.protocol == "sacn" else ""
    )
    return [licence, f"{desk.ip or 'no address'} /{desk.prefix}", way]


def _boards(
    show: Show,
    universes: Sequence[int],
    troubles: _Troubles,
    measures: Measures,
    picked: int | None,
) -> list[Board]:
    width = (measures.desk_width - 24 - 8 * (measures.boards - 1)) // measures.boards
    found = []
    for place, universe in enumerate(universes):
        row, column = divmod(place, measures.boards)
        count = show.carried.get(universe, 0)
        name = called(show, universe)
        shown = "" if name == f"U{universe}" else shorten(name, width - 62)
        under = counted(count, "fixture") if count else "nothing planned"
        found.append(
            Board(
                universe,
                shown,
                under,
                hue_of_universe(universe),
                12 + column * (width + 8),
                HEAD + row * (measures.board + 10),
                width,
                universe in troubles.universes,
                universe == picked,
                _read_out(
                    [f"U{universe}", shown, under], "stop" if universe in troubles.universes else ""
                ),
            )
        )
    return found


def _box(
    show: Show,
    box: Box,
    troubles: _Troubles,
    measures: Measures,
    top: int,
    picked: bool,
    port: int | None,
) -> BoxPicture:
    inner = measures.box_width - 24
    width = (inner - 8 * (measures.gates - 1)) // measures.gates
    gates = []
    for place, held in enumerate(box.ports):
        row, column = divmod(place, measures.gates)
        x, y = measures.box_left + 12 + column * (width + 8), top + HEAD + row * GATE_PITCH
        gates.append(_gate(show, box, held, troubles, x, y, width, held.number == port))
    rows = -(-len(box.ports) // measures.gates)
    ports = f"{counted(len(box.ports), 'port')} · counts from {box.counts_from}"
    priority = (
        f", priority {box.priority}" if box.kind is BoxKind.DESK and box.protocol == "sacn" else ""
    )
    says = f"{box.protocol.written}, {box.way}{priority}"
    name = shorten(box.name, measures.box_width - 170)
    address = f"{box.ip} /{box.prefix}" if box.ip else "no address yet"
    facts = ports + (" · as a range" if box.numbering == "range" else "")
    trouble = troubles.boxes.get(box.name, "")
    return BoxPicture(
        box,
        name,
        address,
        facts,
        says,
        _read_out([name, address, facts, says], trouble),
        trouble,
        measures.box_left,
        top,
        measures.box_width,
        HEAD + rows * GATE_PITCH if rows else HEAD,
        tuple(gates),
        picked and port is None,
    )


def _gate(
    show: Show, box: Box, port: Port, troubles: _Troubles, x: int, y: int, width: int, picked: bool
) -> Gate:
    trouble = troubles.ports.get((box.name, port.number), "")
    says = said_by(box, port)
    if port.use is Use.OFF:
        head, under, kind = "–", "off", "off"
    elif port.universe is None:
        head, under, kind = "–", "spare" if says is None else f"it says {says}", "spare"
    else:
        head, kind = f"U{port.universe}", str(port.use)
        number = port.universe - 1 + box.counts_from
        under = f"it says {says}" if says is not None else f"type {number}"
        under = f"takes in {number}" if port.use is Use.IN else under
    words = f"port {port.number} {head} {under}"
    name = f", {called(show, port.universe)}" if port.universe is not None else ""
    label = f"{words}{name}, {box.name}{f', {trouble}' if trouble else ''}"
    hue = hue_of_universe(port.universe)
    return Gate(
        port.number,
        head,
        f"port {port.number}",
        under,
        label,
        hue,
        x,
        y,
        width,
        kind,
        trouble,
        picked,
    )


def _ropes(
    boards: Sequence[Board], boxes: Sequence[BoxPicture], troubles: _Troubles, measures: Measures
) -> list[Rope]:
    """A rope for each universe to each box that gives it out, fanned out where they arrive."""
    at: Mapping[int, Board] = {board.universe: board for board in boards}
    ropes = []
    for drawn in boxes:
        universes: dict[int, bool] = {}
        for port in drawn.box.outputs:
            if port.universe is not None:
                wrong = (drawn.box.name, port.number) in troubles.ports and troubles.ports[
                    drawn.box.name, port.number
                ] == "stop"
                universes[port.universe] = universes.get(port.universe, True) and wrong
        room = drawn.height - 24
        pitch = min(14.0, room / max(1, len(universes)))
        for place, (universe, wrong) in enumerate(sorted(universes.items())):
            board = at.get(universe)
            if board is None:
                continue
            x1, y1 = measures.desk_width - 12, board.y + measures.board / 2
            x2, y2 = measures.box_left, drawn.y + 16 + place * pitch
            half = (x2 - x1) / 2
            path = f"M{x1} {y1:g} C{x1 + half:g} {y1:g} {x2 - half:g} {y2:g} {x2} {y2:g}"
            lost = wrong or drawn.box.name in troubles.cut_off
            ropes.append(Rope(path, board.hue, lost))
    return ropes
