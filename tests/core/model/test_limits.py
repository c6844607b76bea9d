"""Every limit of the small types on both sides: the last value that is accepted and the first that
is not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import pytest

from fence.core.model.address import Address
from fence.core.model.box import Box, BoxKind, Port
from fence.core.model.day import Day, check_hours
from fence.core.model.desk import Desk, TellTale
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.ground import Distance, Ground
from fence.core.model.line import Device, Line, Source, Stop
from fence.core.model.net import Net, Reserved
from fence.core.model.patch import Patch
from fence.core.model.profile import (
    Channel,
    Function,
    Mode,
    Part,
    Profile,
    Range,
    Setter,
    SetterKind,
)
from fence.core.model.show import Position, Show, Universe
from fence.core.model.stock import Item, Kind
from fence.core.model.text import check_id, check_text, whole_number
from fence.core.model.waiver import Waiver

ONE = Mode("m", (Part(1),))


def profile(**fields: Any) -> Profile:
    """A type with these fields."""
    return Profile("p", "Wren", "Bud", (ONE,), **fields)


@dataclass(frozen=True)
class Limit:
    """What is made of a value, the values that are accepted to their ends, and those that are not
    from the first on."""

    make: Callable[[Any], object]
    good: tuple[Any, ...]
    bad: tuple[Any, ...]


def many(count: int) -> range:
    """So many."""
    return range(1, count + 1)


LIMITS = {
    "slot": Limit(lambda n: Address(1, n), (1, 512), (0, 513)),
    "universe": Limit(lambda n: Universe(n), (1, 63_999), (0, 64_000)),
    "patch": Limit(lambda n: Patch(1, n), (1, 512), (0, 513)),
    "footprint": Limit(lambda n: Part(n), (0, 512), (-1, 513)),
    "parts": Limit(lambda n: Mode("m", tuple(Part(1) for _ in many(n))), (1, 64), (65,)),
    "level": Limit(lambda n: Range(n, n, "x"), (0, 255), (-1, 256)),
    "default": Limit(lambda n: Channel(Function.RED, default=n), (0, 255), (-1, 256)),
    "unit load": Limit(
        lambda n: profile(unit_load=n), (0, 0.25, 32), (-0.25, 32.25, float("nan"), float("inf"))
    ),
    "hours": Limit(lambda n: profile(battery_hours=n), (0.1, 1000), (0, -1, 1000.5, float("nan"))),
    "hours of a day": Limit(lambda n: check_hours("time", n), (0.1, 1000), (0, 1000.5)),
    "switches": Limit(lambda n: Setter(SetterKind.SWITCHES, switches=n), (1, 16), (0, 17)),
    "rotary": Limit(lambda n: Setter(SetterKind.ROTARY, highest=n), (1, 9999), (0, 10_000)),
    "desk universes": Limit(lambda n: Desk("D", n), (1, 63_999), (0, 64_000)),
    "desk page": Limit(lambda n: Desk("D", page=n), (1, 512), (0, 513)),
    "desk highest": Limit(lambda n: Desk("D", highest=n), (1, 512), (0, 513)),
    "desk buttons": Limit(lambda n: Desk("D", buttons=n), (1, 100_000), (0, 100_001)),
    "desk layout": Limit(lambda n: Desk("D", layout=(Function.RED,) * n), (1, 512), (513,)),
    "tell-tale": Limit(lambda n: TellTale(n), (1, 512), (0, 513)),
    "fixture id": Limit(lambda n: Fixture(n, "A", "p", "m"), (1, 2**53 - 1), (0, 2**53)),
    "ports": Limit(
        lambda n: Box(1, "N", BoxKind.NODE, ports=tuple(map(Port, many(n)))), (512,), (513,)
    ),
    "speed": Limit(
        lambda n: Box(1, "N", BoxKind.NODE, speed=n), (0.1, 400_000), (0, 400_000.5, float("inf"))
    ),
    "boxes": Limit(
        lambda n: Show("S", boxes=tuple(Box(i, f"N{i}", BoxKind.NODE) for i in many(n))),
        (2000,),
        (2001,),
    ),
    "stops": Limit(
        lambda n: Line(1, "L", 1, stops=tuple(Stop(i, device=Device.ADAPTER) for i in many(n))),
        (2000,),
        (2001,),
    ),
    "run": Limit(
        lambda n: Stop(1, fixture=1, length=n), (0, 10_000), (-0.5, 10_000.5, float("nan"))
    ),
    "pack": Limit(lambda n: Stop(1, device=Device.TRANSMITTER, hours=n), (0.1, 1000), (0, 1000.5)),
    "outputs": Limit(lambda n: Stop(1, device=Device.SPLITTER, outputs=n), (1, 256), (0, 257)),
    "output": Limit(lambda n: Stop(2, output=n, fixture=1), (1, 256), (0, 257)),
    "port of a source": Limit(lambda n: Source(1, n), (1, 100_000), (0, 100_001)),
    "distance": Limit(lambda n: Distance("A", "B", n), (0, 10_000), (-0.5, 10_000.5)),
    "slack": Limit(lambda n: Ground(slack=n), (0, 300), (-1, 301)),
    "stock": Limit(
        lambda n: Show("S", stock=tuple(Item(Kind.CABLE, 1, length=i) for i in many(n))),
        (2000,),
        (2001,),
    ),
    "cable": Limit(lambda n: Item(Kind.CABLE, 1, length=n), (0.1, 10_000), (0, 10_000.5)),
    "reserved": Limit(
        lambda n: Net(reserved=(Reserved("10.0.0.1", "10.0.0.2"),) * n), (50,), (51,)
    ),
    "height": Limit(lambda n: Position("P", height=n), (-1000, 1000), (-1000.5, 1000.5)),
    "spacing": Limit(lambda n: Position("P", spacing=n), (0, 10_000), (-0.5, 10_000.5)),
    "waivers": Limit(
        lambda n: Show("S", waivers=tuple(waiver(str(i)) for i in many(n))), (500,), (501,)
    ),
    "reason": Limit(lambda n: waiver("x" * n), (1, 500), (0, 501)),
    "text": Limit(lambda n: check_text("t", "x" * n), (1, 1000), (0, 1001)),
    "note": Limit(lambda n: Show("S", note="x" * n), (0, 20_000), (20_001,)),
    "id": Limit(lambda n: check_id("i", "x" * n), (1, 120), (0, 121)),
}


def waiver(reason: str) -> Waiver:
    """A finding that is let stand for a reason."""
    return Waiver("overlap", "somewhere", "says", reason)


@pytest.mark.parametrize("name", LIMITS)
def test_both_sides(name: str) -> None:
    """The last good is taken, the first bad is refused in words."""
    limit = LIMITS[name]
    for value in limit.good:
        limit.make(value)
    for value in limit.bad:
        with pytest.raises(FenceError):
            limit.make(value)


def test_numbers_as_they_are_typed() -> None:
    """Up to fifteen digits."""
    assert whole_number("9" * 15) == 10**15 - 1
    assert whole_number("9" * 16) is None


@pytest.mark.parametrize(
    ("times", "sound"),
    [
        ((0, 0, 60, 61), True),
        ((0, 60, 60, 61), True),
        ((0, 0, 60, 60), False),
        ((0, 60, 59, 61), False),
        ((60, 59, 61, 62), False),
        ((0, 60, 120, 2160), True),
        ((0, 60, 120, 2161), False),
    ],
)
def test_a_day_goes_forward(times: tuple[int, int, int, int], sound: bool) -> None:
    """Doors not before set-up, the end not before doors, the next day after the end and within a
    day and a half."""
    if sound:
        Day(*times)
    else:
        with pytest.raises(FenceError):
            Day(*times)
