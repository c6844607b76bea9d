"""The log says what changed, field by field: boxes, lines, the desk, what is said of the whole
show."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest

from fence.core import edits
from fence.core.edits.arriving import differing
from fence.core.edits.prose import LONGEST_SAID, describe
from fence.core.model.box import Box, Merging, Numbering, Port, Protocol, Way
from fence.core.model.day import Day
from fence.core.model.ground import DESK, Distance, Ground
from fence.core.model.line import Cable, Device, Source
from fence.core.model.net import Net, Reserved
from fence.core.model.record import Seen
from fence.core.model.show import Show
from fence.core.model.stock import Item, Kind
from tests.rigs import rig

DAY = Day(8 * 60, 18 * 60, 23 * 60, 32 * 60)


def start() -> Show:
    """Three fixtures, two on a line behind a splitter, a dock with two ports."""
    show = rig(("A", 4, 1, 1), ("B", 4, 1, 9), ("C", 4, 2, 1))
    show = replace(
        show,
        boxes=(Box(1, "Dock 1", ip="10.0.0.4", ports=(Port(1, 1), Port(2, 2))), Box(2, "Dock 2")),
    )
    show = edits.insert(
        edits.add_line(show, "Truss", 1), 1, Device.SPLITTER, label="Split", outputs=4
    )
    return edits.chain(show, 1, [1, 2], after=1)


CASES: list[tuple[Callable[[Show], Show], str]] = [
    (lambda s: edits.change_box(s, 1, ip="10.0.0.5"), "Dock 1: address 10.0.0.4 → 10.0.0.5"),
    (
        lambda s: edits.change_box(s, 1, ip="", way=Way.UNICAST),
        "Dock 1: address 10.0.0.4 → none, way multicast → unicast",
    ),
    (lambda s: edits.change_box(s, 1, protocol=Protocol.ARTNET), "Dock 1: protocol sacn → artnet"),
    (
        lambda s: edits.change_box(s, 1, merging=Merging.HIGHEST),
        "Dock 1: with two senders none → highest",
    ),
    (lambda s: edits.change_box(s, 1, numbering=Numbering.RANGE), "Dock 1: numbering each → range"),
    (lambda s: edits.change_box(s, 1, over_air=True), "Dock 1: over a wireless link"),
    (lambda s: edits.give(s, 1, {2: None}), "Dock 1: port 2 U2 → spare"),
    (lambda s: edits.count_ports(s, 2, 3), "Dock 2: 0 ports → 3"),
    (lambda s: edits.rename_line(s, 1, "Grid", 2), "Truss: renamed Grid, carries U1 → U2"),
    (
        lambda s: edits.start_line(s, 1, Source(1, 1)),
        "Truss: starts at nowhere said → Dock 1 port 1",
    ),
    (lambda s: edits.set_cable_runs(s, 1, {2: 8.0}), "Truss: A m none → 8"),
    (
        lambda s: edits.set_cable(s, 1, [2, 3], Cable.MICROPHONE),
        "Truss: A cable dmx → microphone, B cable dmx → microphone",
    ),
    (lambda s: edits.take_off(s, 1, [3]), "Truss: B taken off"),
    (lambda s: edits.terminate(s, 1), "Truss: terminator put in"),
    (lambda s: edits.move_branch(s, 1, 3, 1), "Truss: B hung elsewhere"),
    (
        lambda s: edits.leave_open(s, 1, "it is short"),
        "Truss: B left open, since none → it is short",
    ),
    (
        lambda s: edits.set_device(s, 1, 1, outputs=8, rdm=False, label="Split"),
        "Truss: Split outputs 4 → 8, Split: not passes RDM",
    ),
    (
        lambda s: edits.set_ground(s, Ground((Distance(DESK, "Roof", 24),))),
        "Distances: the desk to Roof none → 24 m",
    ),
    (
        lambda s: edits.set_stock(s, [Item(Kind.CABLE, 3, length=10.0)]),
        "Stock: 10 m dmx 5-pin 0 → 3",
    ),
    (
        lambda s: replace(s, day=DAY),
        "Day: set-up 08:00, doors 18:00, end 23:00, next set-up 08:00 +1",
    ),
    (
        lambda s: replace(s, net=Net(True, (Reserved("10.0.0.1", "10.0.0.9"),))),
        "Network: others use it too, 10.0.0.1 to 10.0.0.9 kept",
    ),
    (lambda s: replace(s, walk=("Roof", "Pit")), "Order of the walk: Roof, Pit"),
    (lambda s: edits.mark_sign(s, 1, Seen.DARK, "red"), "A stays dark, brought up in red"),
    (lambda s: edits.set_turned(s, [1], turned=False), "A hangs upright"),
    (lambda s: edits.set_turned(s, [1], turned=True), "A hangs upside down"),
    (lambda s: edits.add_box(s, "Dock 3"), "Added node Dock 3"),
    (lambda s: replace(s, boxes=()), "Removed node Dock 1 and 1 more"),
]


@pytest.mark.parametrize(("edit", "words"), CASES, ids=[words[:40] for _, words in CASES])
def test_what_changed_is_told(edit: Callable[[Show], Show], words: str) -> None:
    """The thing by its name, then each field before and after."""
    show = start()
    assert describe(show, edit(show)) == words


def test_a_long_story_is_cut() -> None:
    """Of many changes the first are told and how many more there are; never more than the log
    takes."""
    show = start()
    show = replace(
        show,
        boxes=(replace(show.boxes[0], ports=tuple(Port(n, n) for n in range(1, 9))), show.boxes[1]),
    )
    words = describe(show, edits.give(show, 1, dict.fromkeys(range(1, 9))))
    assert (
        words
        == "Dock 1: port 1 U1 → spare, port 2 U2 → spare, port 3 U3 → spare, port 4 U4 → spare "
        "and 4 more"
    )
    long = edits.change_box(show, 2, model="x" * 900)
    assert len(describe(show, long)) == LONGEST_SAID


def test_a_file_that_changes_a_type_says_so() -> None:
    """Another type is told beside the mode, also where both are called alike."""
    held = rig(("A", 4, 1, 1)).fixtures[0]
    assert differing(held, replace(held, profile="p5")) == [("type", "p4", "p5")]
    assert [what for what, *_ in differing(held, replace(held, profile="p5", mode="n"))] == [
        "type",
        "mode",
    ]
