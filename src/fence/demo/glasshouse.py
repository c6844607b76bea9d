"""Glasshouse After Dark: a winter night walk through the glasshouses of the invented Thornmere
Gardens.

There is a clean plan, and the same plan as a technician would meet it on a bad morning.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from fence.core import edits
from fence.core.lines.measure import measure
from fence.core.model.address import Address
from fence.core.model.box import BoxKind, Merging
from fence.core.model.day import Day, Measured
from fence.core.model.fixture import Fixture
from fence.core.model.ground import DESK, Distance, Ground
from fence.core.model.line import Cable, Device, Plug, Source
from fence.core.model.needs import ModeSchool, Need, Scope
from fence.core.model.net import Net, Reserved
from fence.core.model.record import Witness
from fence.core.model.scene import Place
from fence.core.model.show import Show
from fence.core.model.stock import Item, Kind
from fence.core.model.wiring import needs_adapter, wiring_of
from fence.library import shipped_profiles
from fence.library.desks import DESKS

NAME = "Glasshouse After Dark"
CLEAN_NAME = "Glasshouse After Dark, clean"

UNIVERSES = {1: "Palm house", 2: "Water court", 3: "Canopy walk", 4: "Gatehouse"}


@dataclass(frozen=True, slots=True)
class _Group:
    """Alike fixtures at one position, back to back from ``start``."""

    profile: str
    mode: str
    quantity: int
    label: str
    number: int
    position: str
    start: Address


GROUPS = (
    _Group("teasel-sway", "16 channel", 4, "Palm 1", 1, "Palm House", Address(1, 1)),
    _Group("tansy-pond-wash", "8 channel", 6, "Fern 1", 11, "Fern Gully", Address(1, 65)),
    _Group("bindweed-mistpot", "2 channel", 2, "Mist 1", 17, "Fern Gully", Address(1, 121)),
    _Group("sedge-nightbloom", "1 channel", 3, "Spore 1", 19, "Fern Gully", Address(1, 125)),
    _Group("teasel-lance", "34 channel", 4, "Orchid 1", 31, "Orchid Room", Address(1, 129)),
    _Group("mattock-rack-12", "12 channel", 1, "Orchid rack", 35, "Orchid Room", Address(1, 301)),
    _Group("sedge-parchment", "3 channel", 4, "Bench 1", 36, "Orchid Room", Address(1, 321)),
    _Group("tansy-pond-wash", "5 channel", 10, "Lily 1", 41, "Lily Pond", Address(2, 1)),
    _Group("dibber-furrow", "24 channel", 6, "Rill 1", 51, "Rill", Address(2, 65)),
    _Group("tansy-glowworm", "6 channel", 5, "Reed 1", 61, "Rill", Address(2, 257)),
    _Group("bindweed-flicker", "4 channel", 1, "Storm", 69, "Lily Pond", Address(2, 301)),
    _Group("dibber-trellis", "110 channel", 3, "Canopy 1", 71, "Canopy Walk", Address(3, 1)),
    _Group("dibber-furrow", "36 channel", 4, "Bough 1", 75, "Canopy Walk", Address(3, 331)),
    _Group("sedge-parchment", "5 channel 16-bit", 2, "Arch 1", 81, "Gatehouse", Address(4, 1)),
    _Group("dibber-cyc-duo", "5 channel", 2, "Wall 1", 83, "Gatehouse", Address(4, 21)),
    _Group("mattock-latch", "1 channel", 1, "Lantern", 85, "Gatehouse", Address(4, 50)),
    _Group("wheelhoe-mirror", "5 channel", 2, "Vine 1", 86, "Gatehouse", Address(4, 101)),
    _Group("tansy-pond-wash", "4 channel", 1, "Gate A", 88, "Gatehouse", Address(4, 257)),
    _Group("tansy-pond-wash", "4 channel", 1, "Gate B", 89, "Gatehouse", Address(4, 261)),
    _Group("mattock-fork-8", "RDM only", 2, "Fork 1", 91, "Gatehouse", Address(4, 1)),
)


NEEDS = (
    Need(features=("dimmer",)),
    Need(Scope.POSITION, "Lily Pond", ("white",)),
    Need(Scope.POSITION, "Fern Gully", ("white", "shutter/strobe")),
    Need(Scope.POSITION, "Canopy Walk", ("cells apart",)),
    Need(Scope.POSITION, "Rill", ("cells apart",)),
    Need(Scope.TYPE, "teasel-sway", ("16-bit movement",)),
    Need(Scope.TYPE, "mattock-rack-12", school=ModeSchool.FULL),
)


def clean_show() -> Show:
    """The plan as it should be: no stop and no caution, one declared share, cable and network
    planned."""
    return hung(networked(cabled(uncabled_show())))


def hung(show: Show) -> Show:
    """The same with the place of each fixture in metres: in rows, as far apart as they hang."""
    for name, back in ROWS.items():
        ids = [fixture.id for fixture in show.fixtures if fixture.position == name]
        half = (len(ids) - 1) * FROM_DESK[name][1] / 2
        height = HEIGHTS.get(name, 0.0)
        show = edits.set_out(show, ids, Place(-half, back, height), Place(half, back, height))
    return show


def uncabled_show() -> Show:
    """The same before anybody has thought of the cable."""
    show = Show(CLEAN_NAME, desk=DESKS["shed"].desk, needs=NEEDS)
    for number, name in UNIVERSES.items():
        show = edits.add_universe(show, number, name)
        show = edits.reserve(show, number, [512])
    profiles = {profile.id: profile for profile in shipped_profiles()}
    for group in GROUPS:
        show = edits.add_fixtures(
            show,
            edits.AddRun(
                profiles[group.profile],
                group.mode,
                group.quantity,
                group.label,
                group.number,
                group.position,
                group.start.universe,
                group.start,
            ),
        )
    show = edits.share(show, [_called(show, "Gate A").id, _called(show, "Gate B").id], "Gate pair")
    show = edits.pin(show, [_called(show, "Orchid rack").id])
    return edits.set_note(
        show, [_called(show, "Orchid rack").id], "Feeds the old work lights; leave where it is."
    )


FROM_DESK = {
    "Palm House": (24, 3),
    "Fern Gully": (38, 4),
    "Orchid Room": (52, 6),
    "Lily Pond": (45, 3),
    "Rill": (60, 4),
    "Canopy Walk": (35, 5),
    "Gatehouse": (15, 5),
}
"""Metres from the desk, and from fixture to fixture."""
ROWS = {
    "Gatehouse": -18.0,
    "Palm House": 0.0,
    "Canopy Walk": 7.0,
    "Fern Gully": 14.0,
    "Lily Pond": 22.0,
    "Orchid Room": 31.0,
    "Rill": 38.0,
}
"""Metres from the glasshouse’s door back to each row."""
BETWEEN = (
    ("Palm House", "Fern Gully", 14),
    ("Palm House", "Orchid Room", 31),
    ("Lily Pond", "Rill", 12),
)
LENGTHS_HELD = {25: 2, 20: 6, 15: 4, 10: 14, 5: 60, 3: 12}
STOCK = (
    *(
        Item(Kind.CABLE, count, length=float(length), price=length * 0.5 + 4)
        for length, count in LENGTHS_HELD.items()
    ),
    Item(Kind.CABLE, 24, plugs=(Plug.THREE, Plug.THREE), length=5.0, price=5),
    Item(Kind.CABLE, 3, plugs=(Plug.THREE, Plug.THREE), length=20.0, price=12),
    Item(Kind.ADAPTER, 12, plugs=(Plug.FIVE, Plug.THREE), price=6),
    Item(Kind.TERMINATOR, 6, price=3),
    Item(Kind.SPLITTER, 2, price=140),
    Item(Kind.COUPLER, 20, price=4),
    Item(Kind.TRANSMITTER, 2, price=210),
    Item(Kind.RECEIVER, 3, price=160),
    Item(Kind.CHARGER, 3, price=45),
)


def cabled(show: Show) -> Show:
    """Four lines by cable and one wireless, all ends closed and all plugs meeting; distances, the
    stock, the day."""
    ways = [Distance(DESK, name, metres) for name, (metres, _) in FROM_DESK.items()]
    ways += [Distance(*way) for way in BETWEEN]
    show = edits.set_ground(
        show, Ground(tuple(ways)), {name: spacing for name, (_, spacing) in FROM_DESK.items()}
    )
    show = edits.set_day(
        edits.set_stock(show, STOCK), Day(9 * 60, 18 * 60, 23 * 60 + 30, 33 * 60, chargers=3)
    )
    show = edits.add_line(show, "Line A", 1)
    show = edits.chain(show, 1, _at(show, "Palm House"))
    show = edits.insert(
        show, 1, Device.SPLITTER, after=show.line(1).stops[-1].id, label="Split 1", outputs=8
    )
    split = show.line(1).stops[-1].id
    for place in ("Fern Gully", "Orchid Room"):
        show = edits.chain(show, 1, _at(show, place), after=split)
    wireless = _some(show, *(f"Reed {n}" for n in range(1, 6)))
    for number, (name, universe) in enumerate((("Line B", 2), ("Line C", 3), ("Line D", 4)), 2):
        show = edits.add_line(show, name, universe)
        here = [f.id for f in show.fixtures if f.universe == universe and f.id not in wireless]
        show = edits.chain(show, number, here)
    show = edits.insert(
        edits.add_line(show, "Air 3", 2), 5, Device.TRANSMITTER, label="Air 3", outputs=7
    )
    transmitter = show.line(5).stops[0].id
    for reed in wireless:
        show = edits.chain(show, 5, [reed], after=transmitter)
    aired = [stop.id for stop in show.line(5).stops if stop.fixture is not None]
    show = edits.set_cable(show, 5, aired, Cable.WIRELESS, (Plug.WIRELESS, Plug.WIRELESS))
    show = edits.set_links(show, 5, [transmitter, *aired], "14")
    for line in show.lines[:4]:
        show = edits.terminate(_with_adapters(show, line.id), line.id)
    return measure(show)


def networked(show: Show) -> Show:
    """A desk that may send eight universes and two boxes, one counting from 0; lines start at their
    ports."""
    show = edits.add_box(show, "Shed 8", kind=BoxKind.DESK)
    show = edits.change_box(show, 1, ip="192.168.40.2", sends=8, model="Mattock Shed 8")
    show = edits.add_box(show, "palm dock", ports=4)
    show = edits.change_box(
        show, 2, ip="192.168.40.11", counts_from=0, model="Tansy Dock 4", merging=Merging.PRIORITY
    )
    show = edits.give(show, 2, {1: 1, 2: 2, 3: 3, 4: 4})
    show = edits.add_box(show, "rill dock", ports=8)
    show = edits.change_box(
        show, 3, ip="192.168.40.12", model="Wheelhoe Sluice 8", merging=Merging.HIGHEST
    )
    show = edits.give(show, 3, {1: 2})
    for line in show.lines:
        box, port = (3, 1) if line.name == "Air 3" else (2, line.universe or 1)
        show = edits.start_line(show, line.id, Source(box, port))
    kept = Reserved("192.168.40.100", "192.168.40.199", "given out by the house server")
    return edits.set_net(show, Net(reserved=(kept,)))


def _misnumbered(show: Show) -> Show:
    """The network as it was found: a number typed as if the box counted from 1, and a box in
    another network."""
    show = edits.say(show, 2, {1: 0, 2: 1, 3: 2, 4: 4}, Witness("Ground crew", MORNING))
    return edits.change_box(show, 3, ip="192.168.4.12")


MORNING = datetime(2026, 11, 20, 17, 42, tzinfo=UTC)


def _with_adapters(show: Show, line_id: int) -> Show:
    """An adapter wherever plugs do not meet."""
    wiring = wiring_of(show.line(line_id))
    for stop in wiring.line.stops:
        if needs_adapter(show, wiring, stop):
            show = edits.insert(show, line_id, Device.ADAPTER, before=stop.id, label="adapter")
    return show


def _loosened(show: Show) -> Show:
    """The cable as it was left on a bad morning: an adapter gone, an end left open, a battery that
    has grown old."""
    line = show.line(1)
    adapter = next(stop.id for stop in line.stops if stop.device is Device.ADAPTER)
    end = [stop.id for stop in line.stops if stop.terminates][-1]
    show = edits.take_off(show, 1, [adapter, end])
    assert show.day is not None
    old = Measured(_called(show, "Reed 3").id, 9)
    return edits.set_day(show, replace(show.day, measured=(old,)))


def demo_show() -> Show:
    """The same plan with the problems of a bad morning.

    Two overlaps (one from a mode left wrong), one run past the end, one address that the switches
    cannot hold, a number used twice and a fixture without an address; in the cable an open end, an
    adapter that is missing and a battery that is too short; in the network a number that is off by
    one and a box in another network.
    """
    show = replace(clean_show(), name=NAME)
    show = edits.nudge(show, _called(show, "Lily 4").id, -2)
    show = edits.change_mode(show, [_called(show, "Fern 5").id], "10 channel")
    show = edits.place(show, _called(show, "Bough 4").id, Address(3, 489))
    show = edits.place(show, _called(show, "Vine 2").id, Address(4, 300))
    show = edits.renumber(show, [_called(show, "Rill 3").id], 52)
    return _misnumbered(_loosened(edits.unplace(show, [_called(show, "Reed 5").id])))


HEIGHTS = {
    "Palm House": 6,
    "Orchid Room": 3.5,
    "Canopy Walk": 11,
    "Gatehouse": 9,
    "Lily Pond": 0,
    "Rill": 0,
}
WALK = ("Gatehouse", "Canopy Walk", "Palm House", "Orchid Room", "Fern Gully", "Lily Pond", "Rill")


def on_site_show() -> Show:
    """The clean plan with what a crew needs to know of the place, before anybody has set
    anything."""
    show = replace(uncabled_show(), name=ON_SITE_NAME)
    for name, height in HEIGHTS.items():
        show = edits.set_height(show, name, height)
    show = edits.set_hard(show, "Canopy Walk", hard=True)
    show = edits.set_walk(show, WALK)
    show = _with_lines(show)
    hung = [
        fixture.id for fixture in show.fixtures if fixture.position in ("Canopy Walk", "Gatehouse")
    ]
    return edits.set_turned(show, hung, turned=True)


def _with_lines(show: Show) -> Show:
    """Three lines by cable and one wireless: one with a splitter, one with an end that somebody
    left open."""
    show = edits.add_line(show, "Line A", 1)
    show = edits.chain(
        show, 1, [*_at(show, "Palm House"), *_some(show, *(f"Fern {n}" for n in range(1, 7)))]
    )
    fern = next(
        stop.id for stop in show.line(1).stops if stop.fixture == _called(show, "Fern 1").id
    )
    show = edits.insert(show, 1, Device.SPLITTER, before=fern, label="Fork 1", outputs=8)
    splitter = show.line(1).stops[4].id
    show = edits.chain(
        show, 1, _some(show, "Orchid 1", "Orchid 2", "Orchid 3", "Orchid 4"), after=splitter
    )
    last = next(
        stop.id for stop in show.line(1).stops if stop.fixture == _called(show, "Fern 6").id
    )
    show = edits.terminate(show, 1, last)
    lengths = {stop.id: length for stop, length in zip(show.line(1).stops, LENGTHS, strict=False)}
    show = edits.set_cable_runs(show, 1, lengths)
    for number, (name, universe, place) in enumerate(
        (("Line B", 3, "Canopy Walk"), ("Line C", 4, "Gatehouse")), 2
    ):
        show = edits.add_line(show, name, universe)
        show = edits.terminate(edits.chain(show, number, _at(show, place)), number)
        cables = [stop.id for stop in show.line(number).stops if not stop.terminates]
        show = edits.set_cable_runs(
            show, number, {stop: 24 if stop == cables[0] else 5 for stop in cables}
        )
    show = edits.insert(
        edits.add_line(show, "Air 3", 2), 4, Device.TRANSMITTER, label="Air 3", outputs=7
    )
    transmitter = show.line(4).stops[0].id
    for reed in _some(show, *(f"Reed {n}" for n in range(1, 6))):
        show = edits.chain(show, 4, [reed], after=transmitter)
    aired = [stop.id for stop in show.line(4).stops if stop.fixture is not None]
    return edits.set_cable_runs(
        edits.set_cable(show, 4, aired, Cable.WIRELESS, (Plug.WIRELESS, Plug.WIRELESS)),
        4,
        {transmitter: 5},
    )


LENGTHS = (24, 3, 3, 3, 12, 18, 4, 4, 4, 4, 4, 31, 6, 6, 6)
"""Metres of the cable runs of Line A, in the order in which its stops were hung."""


Step = Callable[[Show, Witness], Show]


def on_site_steps() -> Iterator[tuple[str, str, Step]]:
    """Who did what on the day, and from which step of the work, in order.

    Some are set, some proven, the plan changes over it, one says something else.
    """
    yield LADDER, "Set", lambda show, by: edits.mark_set(show, _at(show, "Palm House"), by)
    yield LADDER, "Set", lambda show, by: edits.mark_set(show, _ferns(show), by)
    yield LADDER, "Set", lambda show, by: edits.mark_set(show, _at(show, "Canopy Walk"), by)
    yield (
        LADDER,
        "Set",
        lambda show, by: edits.mark_set(show, _some(show, "Arch 1", "Arch 2", "Wall 1"), by),
    )
    yield GROUND, "Set", lambda show, by: edits.mark_set(show, _at(show, "Orchid Room"), by)
    yield (
        "Desk",
        "Set",
        lambda show, by: edits.mark_proven(
            show, [*_at(show, "Palm House"), *_some(show, "Arch 1")], by
        ),
    )
    yield (
        "Planner",
        "Address",
        lambda show, by: edits.place(show, _called(show, "Fern 6").id, Address(1, 499)),
    )
    yield (
        "Planner",
        "Address",
        lambda show, by: edits.place(show, _called(show, "Bough 4").id, Address(3, 476)),
    )
    yield (
        GROUND,
        "Set",
        lambda show, by: edits.read_back(show, _called(show, "Canopy 1").id, 100, by=by),
    )


ON_SITE_NAME = "Glasshouse After Dark, on site"
LADDER, GROUND = "Ladder crew A", "Ground crew"


def _at(show: Show, position: str) -> list[int]:
    return [fixture.id for fixture in show.fixtures if fixture.position == position]


def _ferns(show: Show) -> list[int]:
    """Those of the gully that are not set one at a time."""
    return [
        fixture_id
        for fixture_id in _at(show, "Fern Gully")
        if "Spore" not in show.fixture(fixture_id).label
    ]


def _some(show: Show, *labels: str) -> list[int]:
    return [_called(show, label).id for label in labels]


def _called(show: Show, label: str) -> Fixture:
    return next(fixture for fixture in show.fixtures if fixture.label == label)
