"""Edits of the network: boxes, their ports, what they say, where lines start, what is kept free."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial

from fence.core.edits.records import free_name
from fence.core.model.box import (
    MOST_PORTS,
    Box,
    BoxKind,
    Numbering,
    Port,
    Protocol,
    Typed,
    Use,
    Way,
)
from fence.core.model.errors import EditError
from fence.core.model.line import Source
from fence.core.model.net import Net
from fence.core.model.network import number_on, sheet_of
from fence.core.model.record import NOBODY, Witness
from fence.core.model.show import Show
from fence.core.model.text import check_whole


def add_box(
    show: Show, name: str, *, kind: BoxKind = BoxKind.NODE, ports: int = 0, like: Box | None = None
) -> Show:
    """Add a box with spare ports. It speaks as ``like`` does, else as the show's first box. A name
    in use gets a number behind it."""
    check_whole("number of ports", ports, 0, MOST_PORTS)
    model = like or next(iter(show.boxes), None)
    number = max((box.id for box in show.boxes), default=0) + 1
    fallback = "Desk" if kind is BoxKind.DESK else f"Node {number}"
    fresh = Box(
        number,
        free_name(name.strip() or fallback, {box.name for box in show.boxes}),
        kind,
        ports=tuple(map(Port, range(1, ports + 1))),
        prefix=model.prefix if model else 24,
        protocol=model.protocol if model else Protocol.SACN,
        way=model.way if model else Way.MULTICAST,
    )
    return replace(show, boxes=(*show.boxes, fresh))


def put_box(show: Show, box: Box) -> Show:
    """Take what is said of a box, in the place of what was said before. Names tell boxes apart."""
    show.box(box.id)
    if any(held.name == box.name and held.id != box.id for held in show.boxes):
        raise EditError(f"There is a node “{box.name[:60]}” already: names tell nodes apart.")
    boxes = tuple(box if held.id == box.id else held for held in show.boxes)
    return show if boxes == show.boxes else replace(show, boxes=boxes)


def change_box(show: Show, box_id: int, **said: object) -> Show:
    """Change some of what is said of a box."""
    return put_box(show, replace(show.box(box_id), **said))  # type: ignore[arg-type]


def remove_box(show: Show, box_id: int) -> Show:
    """Take a box out. Lines that began at it begin nowhere that is known."""
    gone = show.box(box_id)
    lines = tuple(
        replace(line, source=None) if line.source and line.source.box == box_id else line
        for line in show.lines
    )
    return replace(show, boxes=tuple(box for box in show.boxes if box is not gone), lines=lines)


def count_ports(show: Show, box_id: int, count: int) -> Show:
    """Give a box so many ports: new ones are spare; ``EditError`` where one that would go is in
    use."""
    check_whole("number of ports", count, 0, MOST_PORTS)
    box = show.box(box_id)
    going = box.ports[count:]
    for port in going:
        line = next((n.name for n in show.lines if n.source == Source(box_id, port.number)), "")
        if port.universe is not None or line:
            used = f"gives U{port.universe}" if port.universe is not None else f"feeds {line}"
            raise EditError(
                f"Port {port.number} of {box.name} {used}: make it spare before it goes."
            )
    number = max((port.number for port in box.ports), default=0)
    fresh = tuple(Port(number + n) for n in range(1, count - len(box.ports) + 1))
    return change_box(show, box_id, ports=(*box.ports[:count], *fresh))


def _change_port(show: Show, box_id: int, number: int, change: Callable[[Port], Port]) -> Show:
    box = show.box(box_id)
    if box.port(number) is None:
        raise EditError(f"{box.name} has no port {number}.")
    return change_box(
        show, box_id, ports=tuple(change(p) if p.number == number else p for p in box.ports)
    )


def give(show: Show, box_id: int, universes: Mapping[int, int | None]) -> Show:
    """Plan which universe ports give out, by the number of the port; None makes one spare."""
    for number, universe in universes.items():
        show = _change_port(show, box_id, number, partial(replace, universe=universe))
    return show


def use_port(show: Show, box_id: int, number: int, use: Use) -> Show:
    """Say whether a port gives out, takes in or is off."""
    return _change_port(show, box_id, number, lambda port: replace(port, use=use))


def say(show: Show, box_id: int, says: Mapping[int, int | None], by: Witness = NOBODY) -> Show:
    """Record what ports of a box were seen to say, in its own counting; None where nobody knows any
    more."""
    for number, said in says.items():
        show = _change_port(show, box_id, number, partial(replace, says=said))
    box = show.box(box_id)
    return change_box(show, box_id, read=Typed(sheet_of(box), by))


def type_in(show: Show, box_id: int, by: Witness = NOBODY) -> Show:
    """Record that everything on a box's card was typed there: its ports then say what is
    planned."""
    box = show.box(box_id)
    ports = tuple(_said_right(box, port) for port in box.ports)
    return change_box(show, box_id, ports=ports, typed=Typed(sheet_of(box), by), read=None)


def untype(show: Show, box_id: int) -> Show:
    """Record that a box was not typed in after all."""
    return change_box(show, box_id, typed=None)


def have_typed(show: Show, box_id: int, number: int | None = None) -> Show:
    """Let a port, or a whole box, be typed in once more: what it says now counts no longer, and its
    card waits.

    With a range all follow the first.
    """
    box = show.box(box_id)
    if number is None or box.numbering is Numbering.RANGE:
        return change_box(
            show, box_id, ports=tuple(replace(port, says=None) for port in box.ports), typed=None
        )
    show = _change_port(show, box_id, number, lambda port: replace(port, says=None))
    return change_box(show, box_id, typed=None)


def _said_right(box: Box, port: Port) -> Port:
    """A port that says what is planned; a spare one is not known."""
    return replace(port, says=None if port.universe is None else number_on(box, port.universe))


def start_line(show: Show, line_id: int, source: Source | None) -> Show:
    """Say at which port a line starts; None where nobody knows."""
    line = show.line(line_id)
    if source is not None and show.box(source.box).port(source.port) is None:
        raise EditError(f"{show.box(source.box).name} has no port {source.port}.")
    lines = tuple(replace(line, source=source) if held is line else held for held in show.lines)
    return show if lines == show.lines else show.with_lines(lines)


def start_where_given(show: Show, line_id: int) -> Show:
    """Let a line start at a port that gives its universe, unless it does: at its box if it can be,
    and at a port where no line starts if it can be. Where nothing gives it out the line stays as it
    is."""
    line = show.line(line_id)
    found = [
        Source(box.id, port.number)
        for box in show.boxes
        for port in box.outputs
        if port.universe is not None and port.universe == line.universe
    ]
    if not found or line.source in found:
        return show
    taken = {held.source for held in show.lines if held.source}
    same = line.source.box if line.source else 0
    return start_line(
        show, line_id, min(found, key=lambda source: (source in taken, source.box != same))
    )


def set_net(show: Show, net: Net) -> Show:
    """Say what the boxes' network is like: whether others use it, and what is kept free."""
    return replace(show, net=net)
