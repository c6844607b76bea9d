"""Random networks for tests: desks and boxes with everything, everywhere."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import strategies as st

from fence.core.model.box import Box, BoxKind, Given, Merging, Numbering, Port, Protocol, Use, Way
from fence.core.model.line import Line, Source
from fence.core.model.net import Net, Reserved
from fence.core.model.show import Show
from tests.rigs import rig

UNIVERSES = st.integers(1, 6)
IPS = st.one_of(
    st.just(""),
    st.sampled_from(["10.0.0.0", "10.0.0.255", "224.0.0.5", "0.0.0.9", "192.168.40.1"]),
    st.builds(lambda a, b: f"10.0.{a}.{b}", st.integers(0, 1), st.integers(1, 4)),
    st.ip_addresses(v=4).map(str),
)


@st.composite
def ports(draw: st.DrawFn, number: int) -> Port:
    """A port with anything in it."""
    return Port(
        number,
        draw(st.one_of(st.none(), UNIVERSES, UNIVERSES, st.sampled_from([32_768, 63_999]))),
        draw(st.one_of(st.none(), st.none(), st.integers(0, 7), st.just(40_000))),
        draw(st.sampled_from([Use.OUT, Use.OUT, Use.OUT, Use.IN, Use.OFF])),
    )


@st.composite
def boxes(draw: st.DrawFn, box_id: int) -> Box:
    """A box with anything in it."""
    kind = draw(st.sampled_from([BoxKind.NODE, BoxKind.NODE, BoxKind.DESK]))
    count = draw(st.integers(0, 4))
    return Box(
        box_id,
        f"node {box_id}",
        kind,
        draw(IPS),
        draw(st.sampled_from([8, 16, 23, 24, 24, 24, 30])),
        draw(st.sampled_from(Protocol)),
        draw(st.integers(0, 1)),
        draw(st.sampled_from(Way)),
        draw(st.sampled_from([100, 100, 120])),
        draw(st.sampled_from([None, 0, 2, 9])),
        tuple(draw(ports(number)) for number in range(1, count + 1)),
        numbering=draw(st.sampled_from([Numbering.EACH, Numbering.EACH, Numbering.RANGE])),
        gives=draw(st.sampled_from([Given.HAND, Given.HAND, Given.SERVER])),
        merging=draw(st.sampled_from([None, Merging.HIGHEST])),
        both=draw(st.booleans()),
        only=tuple(draw(st.sampled_from([[], [], [1, 2], [5]]))),
        speed=draw(st.sampled_from([100.0, 1.0, 0.5])),
        over_air=draw(st.booleans()),
    )


@st.composite
def networks(draw: st.DrawFn) -> Show:
    """A show with fixtures on some universes, desks, boxes, lines that start anywhere, a shared
    network or not."""
    wanted = draw(st.lists(UNIVERSES, max_size=5, unique=True))
    show = rig(*[(f"F{u}", 4, u, 1) for u in wanted])
    held = tuple(draw(boxes(number)) for number in range(1, draw(st.integers(0, 4)) + 1))
    lines = tuple(
        Line(
            number,
            f"L{number}",
            draw(st.one_of(st.none(), UNIVERSES)),
            draw(st.one_of(st.none(), st.builds(Source, st.integers(1, 5), st.integers(1, 4)))),
        )
        for number in range(1, draw(st.integers(0, 3)) + 1)
    )
    kept = draw(st.sampled_from([(), (Reserved("10.0.0.2", "10.0.0.3", "house"),)]))
    return replace(show, boxes=held, lines=lines, net=Net(draw(st.booleans()), kept))
