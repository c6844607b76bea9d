"""Where fixtures hang as a picture: from above or from the front, positions as bars, in metres."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, floor, hypot, log10

from fence.core.model.fixture import Fixture
from fence.core.model.scene import Place
from fence.core.model.show import Show

WIDTH, MARGIN = 1000, 60
LEAST = 4.0
"""Metres that the picture shows at least, however near everything hangs."""
HUES = 10
LINES = 10
"""About so many lines of the grid go across."""
MOST_DRAWN = 1500
"""Fixtures that are drawn at once; of more only the positions are, until one is chosen."""
CROWDED = 120
"""Fixtures from which on labels are left out until the picture is larger."""
VIEWS: dict[str, Callable[[Place], tuple[float, float]]] = {
    "above": lambda at: (at.x, at.y),
    "front": lambda at: (at.x, at.z),
}


@dataclass(frozen=True, slots=True)
class Hung:
    """A fixture in the picture."""

    fixture: Fixture
    x: float
    y: float
    hue: int
    address: str
    picked: bool
    words: str


@dataclass(frozen=True, slots=True)
class Bar:
    """A position: from end to end of what hangs there, and the how-manieth it is on the walk."""

    name: str
    x1: float
    y1: float
    x2: float
    y2: float
    turn: int


@dataclass(frozen=True, slots=True)
class Rule:
    """A line of the grid, with its metres."""

    at: float
    metres: str


@dataclass(frozen=True, slots=True)
class HangingDrawing:
    """The picture, ready to be drawn."""

    width: int
    height: int
    hung: tuple[Hung, ...]
    bars: tuple[Bar, ...]
    across: tuple[Rule, ...]
    up: tuple[Rule, ...]
    walk: str
    labels: bool
    left_out: int


def draw_hanging(
    show: Show,
    order: Sequence[str],
    *,
    view: str,
    position: str = "",
    picked: int | None = None,
    zoom: int = 1,
) -> HangingDrawing | None:
    """Everything that has a place, or what has one at a position, seen from above or from the
    front; None where nothing has. ``order`` names the positions as the crew walks."""
    flat = VIEWS[view]
    placed = [
        (one, flat(one.at))
        for one in show.fixtures
        if one.at is not None and position in ("", one.position)
    ]
    if not placed:
        return None
    xs, ys = [at[0] for _, at in placed], [at[1] for _, at in placed]
    wide, high = max(LEAST, max(xs) - min(xs)), max(LEAST, max(ys) - min(ys))
    scale = (WIDTH - 2 * MARGIN) / max(wide, high / 2)
    left = (min(xs) + max(xs)) / 2 - (WIDTH - 2 * MARGIN) / scale / 2
    height = round(high * scale) + 2 * MARGIN
    top = (min(ys) + max(ys)) / 2 + high / 2

    def spot(at: tuple[float, float]) -> tuple[float, float]:
        return (
            round(MARGIN + (at[0] - left) * scale, 1),
            round(MARGIN + (top - at[1]) * scale, 1),
        )

    bars = tuple(_bars(placed, spot, order))
    drawn = (
        placed if len(placed) <= MOST_DRAWN else [held for held in placed if held[0].id == picked]
    )
    return HangingDrawing(
        WIDTH,
        height,
        tuple(_hung(one, spot(at), picked) for one, at in drawn),
        bars,
        tuple(_rules(left, (WIDTH - 2 * MARGIN) / scale, lambda m: spot((m, 0))[0])),
        tuple(_rules(top - high, high, lambda m: spot((0, m))[1])),
        " ".join(f"{(bar.x1 + bar.x2) / 2:.1f},{(bar.y1 + bar.y2) / 2:.1f}" for bar in bars),
        len(placed) <= CROWDED * zoom,
        len(placed) - len(drawn),
    )


def _hung(fixture: Fixture, at: tuple[float, float], picked: int | None) -> Hung:
    first = fixture.patch[0]
    address = fixture.planned_at
    place = fixture.at.words if fixture.at else ""
    where = f", {fixture.position}" if fixture.position else ""
    return Hung(
        fixture,
        *at,
        (first.universe or 0) % HUES,
        address,
        fixture.id == picked,
        f"{fixture.label} {address}{where}, at {place}",
    )


def _bars(
    placed: Sequence[tuple[Fixture, tuple[float, float]]],
    spot: Callable[[tuple[float, float]], tuple[float, float]],
    order: Sequence[str],
) -> list[Bar]:
    """A bar for each position, in the order of the walk: between the two that hang farthest from
    each other along it."""
    of: dict[str, list[tuple[float, float]]] = {}
    for fixture, at in placed:
        if fixture.position:
            of.setdefault(fixture.position, []).append(at)
    found = []
    for turn, name in enumerate([one for one in order if one in of], 1):
        ends = of[name]
        first = max(ends, key=lambda at: hypot(at[0] - ends[0][0], at[1] - ends[0][1]))
        last = max(ends, key=lambda at: hypot(at[0] - first[0], at[1] - first[1]))
        found.append(Bar(name, *spot(min(first, last)), *spot(max(first, last)), turn))
    return found


def _rules(begin: float, length: float, spot: Callable[[float], float]) -> list[Rule]:
    """Lines of the grid at round metres."""
    step = 10.0 ** floor(log10(max(length, 0.1) / LINES * 1.001))
    for factor in (1, 2, 5, 10):
        if length / (step * factor) <= LINES:
            step *= factor
            break
    first = ceil(begin / step)
    count = floor((begin + length) / step) - first + 1
    return [Rule(spot((first + at) * step), f"{(first + at) * step:g} m") for at in range(count)]
