"""Shows with everything at once: rich rigs on tangled lines, a network of odd boxes, batteries and
a record."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import strategies as st

from fence.core.model.day import Day
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Device, Line, Power, Source, Stop
from fence.core.model.net import Net, Reserved
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile
from fence.core.model.record import ReadBack, SetTo
from fence.core.model.show import Show
from tests.core.network.nets import boxes
from tests.rigs import rich_rigs

DAYS = st.sampled_from(
    [None, Day(8 * 60, 18 * 60, 23 * 60, 32 * 60), Day(600, 660, 1500, 1560, 30, 1)]
)


@st.composite
def lines(draw: st.DrawFn, line_id: int, fixtures: list[int]) -> Line:
    """Any tree of stops, its fixtures drawn from those that there are: also twice, also ones that
    are gone."""
    stops: list[Stop] = []
    for number in range(1, draw(st.integers(0, 7)) + 1):
        before = [stop.id for stop in stops]
        device = draw(st.sampled_from([None, None, None, *Device]))
        power = draw(st.sampled_from([None, Power.PACK])) if device else None
        stops.append(
            Stop(
                number,
                draw(st.sampled_from([None, *before, *before[-2:]])) if before else None,
                draw(st.sampled_from([None, 1, 2, 7])),
                draw(st.sampled_from([*fixtures, 99])) if device is None else None,
                device,
                draw(st.sampled_from(["", "Split"])),
                draw(st.sampled_from([None, 1, 2])),
                draw(st.booleans()),
                draw(st.booleans()),
                draw(st.sampled_from(["", "7", "14"])),
                draw(st.sampled_from([None, 0, 30, 120, 301])),
                draw(st.sampled_from([Cable.DMX, Cable.DMX, Cable.WIRELESS, Cable.MICROPHONE])),
                power=power,
                hours=6 if power else None,
            )
        )
    return Line(
        line_id,
        draw(st.sampled_from([f"Line {line_id}", "A-1", "A"])),
        draw(st.sampled_from([None, 1, 2])),
        draw(st.sampled_from([None, Source(1, 1), Source(2, 1), Source(1, 9)])),
        draw(st.sampled_from(["", "it is short"])),
        tuple(stops),
    )


@st.composite
def whole_shows(draw: st.DrawFn, most: int = 6) -> Show:
    """A show in which anything may be wrong, in every step of the work."""
    show = draw(rich_rigs(most=most))
    ids = [fixture.id for fixture in show.fixtures] or [99]
    heavy = tuple(draw(_odd(profile)) for profile in show.profiles)
    fixtures = tuple(
        replace(
            fixture,
            set_to=draw(
                st.sampled_from(
                    [None, None, SetTo(fixture.mode, fixture.patch), SetTo("m0", (Patch(3, 9),))]
                )
            ),
            read_back=draw(
                st.sampled_from([None, None, *(_said(fixture, why) for why in ("", "known"))])
            ),
        )
        for fixture in show.fixtures
    )
    return replace(
        show,
        profiles=heavy,
        fixtures=fixtures,
        lines=tuple(draw(lines(number, ids)) for number in range(1, draw(st.integers(0, 3)) + 1)),
        boxes=tuple(draw(boxes(number)) for number in range(1, draw(st.integers(0, 3)) + 1)),
        day=draw(DAYS),
        net=Net(
            draw(st.booleans()), draw(st.sampled_from([(), (Reserved("10.0.0.1", "10.0.0.3"),)]))
        ),
    )


def _said(fixture: Fixture, reason: str) -> ReadBack:
    """A display that shows 400, whatever is planned."""
    return ReadBack((400,), fixture.mode, fixture.patch, reason=reason)


@st.composite
def _odd(draw: st.DrawFn, profile: Profile) -> Profile:
    """A type of fixture with what matters to cable and batteries."""
    return replace(
        profile,
        unit_load=draw(st.sampled_from([1, 20, 32])),
        rdm=draw(st.booleans()),
        passes_unpowered=draw(st.booleans()),
        connectors_in=draw(st.sampled_from(["", "3-pin", "5-pin"])),
        connectors_out=draw(st.sampled_from(["", "3-pin"])),
        battery_hours=draw(st.sampled_from([None, 4, 12])),
        charge_hours=draw(st.sampled_from([None, 3])),
    )
