"""A small rig to practise on where there is no show: the back room of the Thornmere Gardens, with
two lines from one node."""

from __future__ import annotations

from functools import cache

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.box import BoxKind
from fence.core.model.line import Device, Source
from fence.core.model.show import Show
from fence.core.model.wiring import needs_adapter, wiring_of
from fence.library import shipped_profiles

NAME = "Back Room"
GROUPS = (
    ("teasel-sway", "16 channel", 2, "Mover 1", "Bar", Address(1, 1)),
    ("tansy-pond-wash", "4 channel", 4, "Wash 1", "Bar", Address(1, 61)),
    ("sedge-parchment", "5 channel 16-bit", 2, "Front 1", "Door", Address(1, 101)),
    ("dibber-cyc-duo", "5 channel", 3, "Cyc 1", "Wall", Address(2, 1)),
    ("wheelhoe-mirror", "5 channel", 1, "Mirror", "Wall", Address(2, 31)),
    ("bindweed-flicker", "2 channel", 1, "Flash", "Wall", Address(2, 41)),
)


@cache
def back_room() -> Show:
    """The rig: thirteen fixtures in two universes, all planned as it should be."""
    show = Show(NAME)
    profiles = {profile.id: profile for profile in shipped_profiles()}
    for number, name in ((1, "Bar and door"), (2, "Wall")):
        show = edits.add_universe(show, number, name)
    for profile, mode, quantity, label, position, start in GROUPS:
        run = edits.AddRun(
            profiles[profile],
            mode,
            quantity,
            label,
            None,
            position,
            start.universe,
            start,
        )
        show = edits.add_fixtures(show, run)
    show = edits.add_line(show, "Line 1", 1)
    show = edits.chain(show, 1, _at(show, "Bar"))
    last = show.line(1).stops[-1].id
    show = edits.insert(show, 1, Device.SPLITTER, after=last, label="Fork", outputs=4)
    fork = show.line(1).stops[-1].id
    show = edits.chain(show, 1, _at(show, "Door"), after=fork)
    show = edits.add_line(show, "Line 2", 2)
    show = edits.chain(show, 2, _at(show, "Wall"))
    for line in show.lines:
        wiring = wiring_of(line)
        for stop in line.stops:
            if needs_adapter(show, wiring, stop):
                show = edits.insert(show, line.id, Device.ADAPTER, before=stop.id, label="adapter")
        show = edits.terminate(show, line.id)
    return _networked(show)


def _networked(show: Show) -> Show:
    show = edits.add_box(show, "Desk", kind=BoxKind.DESK)
    show = edits.change_box(show, 1, ip="10.0.0.2")
    show = edits.add_box(show, "Dock", ports=4)
    show = edits.change_box(show, 2, ip="10.0.0.11", counts_from=0)
    show = edits.give(show, 2, {1: 1, 2: 2})
    for line in show.lines:
        show = edits.start_line(show, line.id, Source(2, line.universe or 1))
    return show


def _at(show: Show, position: str) -> list[int]:
    return [fixture.id for fixture in show.fixtures if fixture.position == position]
