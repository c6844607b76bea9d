"""Every number in a rule on both sides: the last value at which it says nothing, and the first at
which it does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import pytest

from fence.core import edits
from fence.core.checks import check, findings_of
from fence.core.model.box import Box, BoxKind, Port, Protocol, Use
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.patch import Patch
from fence.core.model.profile import Channel, Function, Mode, Part, Profile, Setter, SetterKind
from fence.core.model.show import Show

NOTHING = ""


def kind(footprint: int = 1, *, load: float = 1.0, setter: Setter | None = None) -> Profile:
    """A type of one mode."""
    mode = Mode("m", (Part(footprint, tuple(Channel(Function.DIMMER) for _ in range(footprint))),))
    return Profile("p", "Wren", "Bud", (mode,), unit_load=load, setter=setter or Setter())


def rig(
    *starts: int, footprint: int = 1, universe: int = 1, desk: Desk | None = None, **options: Any
) -> Show:
    """Fixtures at these starts."""
    fixtures = tuple(
        Fixture(n, f"F{n}", "p", "m", number=n, patch=(Patch(universe, start),))
        for n, start in enumerate(starts, 1)
    )
    made = Show(
        "S", fixtures=fixtures, profiles=(kind(footprint, **options),), next_id=len(starts) + 1
    )
    return edits.with_places(replace(made, desk=desk or Desk()))


def loaded(
    count: int, load: float = 1.0, *, cable: Cable = Cable.DMX, length: float | None = None
) -> Show:
    """A closed line with so many fixtures of a load, and a length on its first cable run."""
    show = rig(*range(1, count + 1), load=load)
    stops = [
        Stop(
            n,
            n - 1 or None,
            fixture=n,
            cable=cable if n == 1 else Cable.DMX,
            length=length if n == 1 else None,
        )
        for n in range(1, count + 1)
    ]
    end = Stop(count + 1, count, device=Device.TERMINATOR)
    return replace(show, lines=(Line(1, "L", 1, stops=(*stops, end)),))


def long_line(metres: float) -> Show:
    """A line of that length in cable runs that are none of them long."""
    show = loaded(4)
    line = show.lines[0]
    lengths = (90.0, 90.0, 90.0, metres - 270)
    stops = tuple(
        replace(stop, length=length) for stop, length in zip(line.stops, lengths, strict=False)
    )
    return replace(show, lines=(replace(line, stops=(*stops, line.stops[-1])),))


def served(receivers: int) -> Show:
    """A sender for three, with so many receivers."""
    show = rig(*range(1, receivers + 1))
    sender = Stop(1, device=Device.TRANSMITTER, outputs=3, link="5")
    stops = [
        Stop(n + 1, 1, fixture=n, cable=Cable.WIRELESS, link="5") for n in range(1, receivers + 1)
    ]
    return replace(show, lines=(Line(1, "L", 1, stops=(sender, *stops)),))


def fed(
    universe: int,
    *,
    protocol: Protocol = Protocol.ARTNET,
    counts_from: int = 0,
    says: int | None = None,
) -> Show:
    """A node that gives out one universe."""
    box = Box(
        1,
        "N",
        BoxKind.NODE,
        ports=(Port(1, universe, says, Use.OUT),),
        protocol=protocol,
        counts_from=counts_from,
    )
    return replace(rig(1, universe=universe), boxes=(box,))


def licensed(universes: int) -> Show:
    """A desk that may send two universes, with a port for each of so many."""
    desk = Box(
        1, "D", BoxKind.DESK, ports=tuple(Port(n, n) for n in range(1, universes + 1)), sends=2
    )
    fixtures = tuple(
        Fixture(n, f"F{n}", "p", "m", patch=(Patch(n, 1),)) for n in range(1, universes + 1)
    )
    show = Show("S", fixtures=fixtures, profiles=(kind(),), next_id=universes + 1, boxes=(desk,))
    return edits.with_places(show)


@dataclass(frozen=True)
class Border:
    """A rule, what makes a rig of a number, and what it says at each: a severity, or nothing."""

    rule: str
    make: Callable[[Any], Show]
    says: tuple[tuple[Any, str], ...]


SWITCHES, DIALS = Setter(SetterKind.SWITCHES, switches=9), Setter(SetterKind.ROTARY, highest=99)
BORDERS = {
    "loads": Border("line-load", loaded, ((19, NOTHING), (20, "note"), (32, "note"), (33, "stop"))),
    "quarter loads": Border(
        "line-load",
        lambda n: loaded(n, 0.25),
        ((79, NOTHING), (80, "note"), (128, "note"), (129, "stop")),
    ),
    "length": Border("line-length", long_line, ((300, NOTHING), (300.5, "caution"))),
    "run": Border(
        "hop-length", lambda m: loaded(1, length=m), ((100, NOTHING), (100.5, "caution"))
    ),
    "microphone cable, loads": Border(
        "audio-cable", lambda n: loaded(n, cable=Cable.MICROPHONE), ((16, "caution"), (17, "stop"))
    ),
    "microphone cable, metres": Border(
        "audio-cable",
        lambda m: loaded(1, cable=Cable.MICROPHONE, length=m),
        ((100, "caution"), (100.5, "stop")),
    ),
    "receivers": Border("wireless-receivers", served, ((3, NOTHING), (4, "stop"))),
    "past the end": Border(
        "past-end", lambda n: rig(n, footprint=5), ((508, NOTHING), (509, "stop"))
    ),
    "overlap": Border("overlap", lambda n: rig(1, n, footprint=5), ((6, NOTHING), (5, "stop"))),
    "nine switches": Border(
        "setter-range", lambda n: rig(n, setter=SWITCHES), ((511, NOTHING), (512, "stop"))
    ),
    "two dials": Border(
        "setter-range", lambda n: rig(n, setter=DIALS), ((99, NOTHING), (100, "stop"))
    ),
    "universes of the desk": Border(
        "universe-limit",
        lambda n: rig(1, universe=n, desk=Desk("D", 4)),
        ((4, NOTHING), (5, "stop")),
    ),
    "slots of the desk": Border(
        "universe-limit",
        lambda n: rig(n, footprint=2, desk=Desk("D", highest=32)),
        ((31, NOTHING), (32, "stop")),
    ),
    "page": Border(
        "page-size",
        lambda n: rig(1, footprint=n, desk=Desk("D", page=16)),
        ((16, NOTHING), (17, "stop")),
    ),
    "grid": Border(
        "page-grid",
        lambda n: rig(n, desk=Desk("D", page=16)),
        ((1, NOTHING), (2, "stop"), (16, "stop"), (17, NOTHING), (18, "stop")),
    ),
    "buttons": Border(
        "desk-fixtures",
        lambda n: rig(*range(1, n + 1), desk=Desk("D", buttons=12)),
        ((12, NOTHING), (13, "stop")),
    ),
    "nearly full": Border(
        "universe-full", lambda n: rig(1, footprint=n), ((460, NOTHING), (461, "note"))
    ),
    "nearly full of 32": Border(
        "universe-full",
        lambda n: rig(1, footprint=n, desk=Desk("D", highest=32)),
        ((28, NOTHING), (29, "note")),
    ),
    "just nine tenths": Border(
        "universe-full",
        lambda n: rig(1, footprint=n, desk=Desk("D", highest=100)),
        ((89, NOTHING), (90, "note")),
    ),
    "Art-Net from 0": Border("artnet-range", fed, ((32_768, NOTHING), (32_769, "stop"))),
    "Art-Net from 1": Border(
        "artnet-range", lambda n: fed(n, counts_from=1), ((32_767, NOTHING), (32_768, "stop"))
    ),
    "Art-Net as it says": Border(
        "artnet-range", lambda n: fed(1, says=n), ((32_767, NOTHING), (32_768, "stop"))
    ),
    "sACN as it says": Border(
        "sacn-range",
        lambda n: fed(1, protocol=Protocol.SACN, counts_from=1, says=n),
        ((0, "stop"), (1, NOTHING), (63_999, NOTHING), (64_000, "stop")),
    ),
    "licence": Border("licence", licensed, ((2, NOTHING), (3, "stop"))),
}


@pytest.mark.parametrize("name", BORDERS)
def test_both_sides_of_each_border(name: str) -> None:
    """It says what it should at each number, and not one earlier or later."""
    border = BORDERS[name]
    for number, says in border.says:
        found = {
            str(finding.severity)
            for finding in check(border.make(number))
            if finding.rule == border.rule
        }
        assert found == ({says} if says else set()), (name, number)


def test_findings_are_cut_where_they_should() -> None:
    """Of more than are wanted the worst are given; of just so many, and of fewer, all."""
    show = rig(*([1] * 4), *range(501, 511), footprint=5)
    every = list(check(show))
    for most in (1, len(every) - 1, len(every), len(every) + 1):
        found = findings_of(show, most=most)
        assert len(found) == min(most, len(every))
        worst = sorted(
            (finding.severity for finding in every), key=lambda one: list(type(one)).index(one)
        )
        assert [finding.severity for finding in found] == worst[: len(found)]
