"""Planning the ports, held against writing every plan down; and what it does on large shows."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.box import Box, Numbering, Port, Use
from fence.core.model.line import Line, Source
from fence.core.model.show import Show
from fence.core.network.ports import Wish, plan_ports
from fence.demo import clean_show
from tests.examples import examples
from tests.rigs import rig

Plan = dict[tuple[int, int], int | None]


def worth(show: Show, plan: Plan) -> tuple[int, int, int, int, int]:
    """What a plan is worth, counted anew: dark universes, lines at a wrong port, changes, boxes,
    strange homes."""
    needed = {f.universe for f in show.fixtures}
    now = {(b.id, p.number): p.universe for b in show.boxes for p in b.ports if p.use == "out"}
    asked = [
        ((line.source.box, line.source.port), line.universe)
        for line in show.lines
        if line.source and line.universe and (line.source.box, line.source.port) in now
    ]
    far = 0
    for universe in {u for _, u in asked}:
        homes = {key[0] for key, u in asked if u == universe}
        given_at = {key[0] for key, u in plan.items() if u == universe}
        far += bool(given_at) and not homes & given_at
    return (
        len(needed - set(plan.values())),
        sum(plan[key] != universe for key, universe in asked),
        sum(plan[key] != now[key] for key in now),
        len({key[0] for key, u in plan.items() if u is not None}),
        far,
    )


def every_plan(show: Show) -> list[Plan]:
    """All ways to put universes, or nothing, on all ports, as long as ranges count on."""
    keys = [(b.id, p.number) for b in show.boxes for p in b.ports if p.use == "out"]
    held = [p.universe for b in show.boxes for p in b.ports if p.use == "out"]
    universes = sorted(
        {*(f.universe for f in show.fixtures), *(line.universe for line in show.lines)} - {None}
    )
    found = []
    for values in product(*[dict.fromkeys([None, now, *universes]) for now in held]):
        plan: Plan = dict(zip(keys, values, strict=True))
        if all(counts_on(box, plan) for box in show.boxes):
            found.append(plan)
    return found


def counts_on(box: Box, plan: Plan) -> bool:
    """Whether a box that numbers its ports as a range really does."""
    if box.numbering == "each":
        return True
    steps = [
        universe - place
        for place, port in enumerate(box.ports)
        if port.use == "out" and (universe := plan[box.id, port.number]) is not None
    ]
    return len(set(steps)) <= 1


@st.composite
def small_nets(draw: st.DrawFn) -> Show:
    """Up to three boxes with up to five ports in all, up to three universes, lines that start
    somewhere."""
    universes = draw(st.lists(st.integers(1, 4), min_size=1, max_size=3, unique=True))
    boxes, left = [], 5
    for box_id in range(1, draw(st.integers(1, 3)) + 1):
        count = draw(st.integers(0, min(left, 3)))
        left -= count
        numbering = draw(st.sampled_from([Numbering.EACH, Numbering.EACH, Numbering.RANGE]))
        first = draw(st.one_of(st.none(), st.integers(1, 4)))
        ports = []
        for place in range(count):
            counted = None if first is None or draw(st.booleans()) else first + place
            free = draw(st.sampled_from([None, None, 1, 2, 3, 9]))
            use = draw(st.sampled_from([Use.OUT, Use.OUT, Use.OUT, Use.OFF]))
            ports.append(
                Port(place + 1, counted if numbering is Numbering.RANGE else free, use=use)
            )
        boxes.append(Box(box_id, f"b{box_id}", ports=tuple(ports), numbering=numbering))
    lines = tuple(
        Line(
            number,
            f"L{number}",
            draw(st.sampled_from(universes)),
            Source(draw(st.integers(1, 3)), draw(st.integers(1, 3))),
        )
        for number in range(1, draw(st.integers(0, 2)) + 1)
    )
    return replace(rig(*[(f"F{u}", 4, u, 1) for u in universes]), boxes=tuple(boxes), lines=lines)


def given_plan(show: Show) -> Plan:
    """What the ports of a show give out."""
    return {(b.id, p.number): p.universe for b in show.boxes for p in b.ports if p.use == "out"}


@examples(150)
@given(small_nets())
def test_no_plan_is_better(show: Show) -> None:
    """On small networks as good as the best of all plans, and it says that this is proven."""
    plan = plan_ports(show, Wish(start_lines=False))
    made = given_plan(plan.show)
    assert all(counts_on(box, made) for box in show.boxes)
    best = min(worth(show, other) for other in every_plan(show))
    assert (worth(show, made), plan.cost) == (best, plan.cost)
    assert plan.cost == best
    assert plan.proven
    assert plan.left == tuple(sorted({f.universe or 0 for f in show.fixtures} - set(made.values())))


def dock(box_id: int, *universes: int | None, numbering: Numbering = Numbering.EACH) -> Box:
    """A box with these universes on its ports."""
    ports = tuple(Port(number, universe) for number, universe in enumerate(universes, 1))
    return Box(box_id, f"dock {box_id}", ports=ports, numbering=numbering)


def planned(boxes: list[Box], universes: int, *lines: Line) -> list[list[int | None]]:
    """What comes out of boxes once the ports are planned."""
    show = rig(*[(f"F{u}", 4, u, 1) for u in range(1, universes + 1)])
    after = plan_ports(replace(show, boxes=tuple(boxes), lines=lines)).show
    return [[port.universe for port in box.ports] for box in after.boxes]


CASES = [
    (
        "what works stays",
        [dock(1, 3, None), dock(2, None, None, None)],
        3,
        [[3, 1], [2, None, None]],
    ),
    (
        "one large node",
        [dock(1, None, None), dock(2, *[None] * 4)],
        3,
        [[None, None], [1, 2, 3, None]],
    ),
    ("a range stays together", [dock(1, None, 2, None, numbering=Numbering.RANGE)], 3, [[1, 2, 3]]),
    ("a port that nobody needs is taken last", [dock(1, 9, 1)], 2, [[2, 1]]),
    ("a duplicate gives way", [dock(1, 1, 1)], 2, [[2, 1]]),
    ("too few ports", [dock(1, None)], 3, [[1]]),
]


@pytest.mark.parametrize(
    ("boxes", "universes", "wanted"), [c[1:] for c in CASES], ids=[c[0] for c in CASES]
)
def test_what_is_planned(boxes: list[Box], universes: int, wanted: list[list[int | None]]) -> None:
    """The plan port by port."""
    assert planned(boxes, universes) == wanted


def test_a_line_gets_its_universe_where_it_starts() -> None:
    """Its port first, else its box; and the lines then say where they start."""
    lines = (Line(1, "L1", 2, Source(2, 2)), Line(2, "L2", 1))
    boxes = [dock(1, None, None), dock(2, None, None)]
    assert planned(boxes, 2, *lines) == [[None, None], [1, 2]]
    show = replace(rig(("A", 4, 1, 1), ("B", 4, 2, 1)), boxes=tuple(boxes), lines=lines)
    plan = plan_ports(show)
    assert [line.source for line in plan.show.lines] == [Source(2, 2), Source(2, 1)]
    assert plan.started == ("L2 at dock 2 port 1",)
    assert plan_ports(show, Wish(start_lines=False)).show.lines == show.lines


def test_spare_ports_give_the_fullest_universe_again() -> None:
    """In place of a splitter: most fixtures a port first. Ranges and unused boxes stay as they
    are."""
    show = rig(*[(f"A{n}", 1, 1, n) for n in range(1, 9)], ("B", 4, 2, 1))
    show = replace(show, boxes=(dock(1, 1, 2, None, None), dock(2, None)))
    after = plan_ports(show, Wish(duplicates=True)).show
    assert [[port.universe for port in box.ports] for box in after.boxes] == [[1, 2, 1, 1], [None]]


def test_the_clean_demo_is_planned_already() -> None:
    """Nothing to change, and no plan is better."""
    plan = plan_ports(clean_show())
    assert (plan.show, plan.moved, plan.proven) == (clean_show(), (), True)


def test_a_line_follows_its_universe_to_another_port() -> None:
    """Where all fixtures of a line are planned elsewhere it starts at a port that gives it, at its
    box if it can."""
    show = replace(
        rig(("A", 4, 1, 1), ("B", 4, 2, 1)),
        boxes=(dock(1, 2, 1), dock(2, 2, 1)),
        lines=(),
    )
    show = edits.chain(edits.add_line(show, "L", 1), 1, [1])
    show = edits.start_line(show, 1, Source(2, 2))
    moved = edits.rehang(edits.place(show, 1, Address(2, 9)), {1})
    assert (moved.line(1).universe, moved.line(1).source) == (2, Source(2, 1))


def test_what_a_plan_says() -> None:
    """Its worth, whether it is proven, and for each port why it changes."""
    show = rig(*[(f"F{u}", 4, u, 1) for u in range(1, 6)])
    boxes = (
        dock(1, 9, None, None, numbering=Numbering.RANGE),
        dock(2, 4, None),
        dock(3, None),
    )
    lines = (Line(1, "L1", 5, Source(2, 1)), Line(2, "L2", 4))
    plan = plan_ports(replace(show, boxes=boxes, lines=lines))
    assert plan.remarks[0] == (
        "5 ports change, 2 nodes in use. Proven: no plan changes or uses less."
    )
    said = [(move.box, move.port, move.before, move.after, move.why) for move in plan.moved]
    assert said == [
        ("dock 1", 1, 9, 1, "had no port"),
        ("dock 1", 2, None, 2, "had no port"),
        ("dock 1", 3, None, 3, "had no port"),
        ("dock 2", 1, 4, 5, "its line starts here"),
        ("dock 2", 2, None, 4, "its port is needed for another"),
    ]


def test_one_port_too_few_is_told() -> None:
    """The universes that come out nowhere, and one of each in the singular."""
    show = rig(("A", 4, 1, 1), ("B", 4, 2, 1))
    plan = plan_ports(replace(show, boxes=(dock(1, None),)))
    assert plan.left == (2,)
    assert plan.remarks[0].startswith("1 port changes, 1 node in use.")
    assert any("U2" in remark for remark in plan.remarks[1:])


def test_a_range_that_counts_on_says_so() -> None:
    """A universe that is given already moves on with the range."""
    show = rig(("A", 4, 1, 1), ("B", 4, 2, 1), ("C", 4, 3, 1))
    boxes = (dock(1, 2, 3, None, numbering=Numbering.RANGE),)
    plan = plan_ports(replace(show, boxes=boxes))
    assert [(move.port, move.before, move.after, move.why) for move in plan.moved] == [
        (1, 2, 1, "had no port"),
        (2, 3, 2, "counts on in the range"),
        (3, None, 3, "counts on in the range"),
    ]


def test_a_spare_port_counts_the_ports_that_feed_already() -> None:
    """Ten fixtures on one port are more a port than seventeen on two."""
    ones = [(f"A{n}", 1, 1, n) for n in range(1, 11)]
    show = rig(*ones, *[(f"B{n}", 1, 2, n) for n in range(1, 18)])
    show = replace(show, boxes=(dock(1, 1, 2, None), dock(2, 2)))
    plan = plan_ports(show, Wish(duplicates=True))
    assert [[port.universe for port in box.ports] for box in plan.show.boxes] == [[1, 2, 1], [2]]
    assert [move.why for move in plan.moved] == ["again, in place of a splitter"]


def test_spare_ports_go_round_by_fixtures_a_port() -> None:
    """Each port that is given counts from then on: ten fixtures on three ports, four on two."""
    show = rig(
        *[(f"A{n}", 1, 1, n) for n in range(1, 5)], *[(f"B{n}", 1, 2, n) for n in range(1, 11)]
    )
    show = replace(show, boxes=(dock(1, 1, 2, None, None, None),))
    after = plan_ports(show, Wish(duplicates=True)).show
    assert [port.universe for port in after.boxes[0].ports] == [1, 2, 2, 2, 1]


def test_all_that_a_plan_says() -> None:
    """Universes without a port, lines at a port that cannot give theirs, lines that say now where
    they start."""
    show = rig(*[(f"F{u}", 4, u, 1) for u in range(1, 5)])
    lines = (
        Line(1, "L1", 2, Source(1, 1)),
        Line(2, "L2", 3, Source(1, 1)),
        Line(3, "L3", 1),
    )
    plan = plan_ports(replace(show, boxes=(dock(1, 1, None, None),), lines=lines))
    assert plan.remarks == (
        "3 ports change, 1 node in use. Proven: no plan changes or uses less.",
        "No port is left for U4: 1 port more would do.",
        "1 line starts at a port that gives something else.",
        "Said where they start: L2 at dock 1 port 3 and L3 at dock 1 port 2.",
    )
