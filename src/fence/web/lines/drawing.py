"""A line as a picture: posts with the cable hanging between them, branches below."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from fence.core.lines.rows import Placed, rows_of
from fence.core.model.line import Cable, Device, Line, Stop
from fence.core.model.show import Show
from fence.core.model.wiring import name_of, wiring_of
from fence.web.address.drawing import hue_of

PITCH, ROW, LEFT, TOP = 86, 98, 46, 4
GROUND = 44
"""How far below the top of its row the ground lies on which the posts stand."""
SAG = 12
NAME = 12
"""Letters of a name that find room under a post."""


@dataclass(frozen=True, slots=True)
class Post:
    """A stop: where it stands, what it is, and the words below it."""

    stop: int
    x: float
    y: float
    kind: str
    hue: int
    name: str
    under: str
    title: str
    picked: bool
    dark: bool
    trouble: str
    battery: float | None

    @property
    def words(self) -> str:
        """What it is, read out."""
        name = f"{self.name} {self.under}" if self.under else self.name
        left = "" if self.battery is None else f", {round(100 * self.battery)} % left at the end"
        return f"{name}: {self.title}{left}" + (f", {self.trouble}" if self.trouble else "")


@dataclass(frozen=True, slots=True)
class Rope:
    """The cable to a stop: its path, its length in words where it is known, and where that
    stands."""

    stop: int
    path: str
    kind: str
    words: str
    x: float
    y: float
    dark: bool


@dataclass(frozen=True, slots=True)
class LineDrawing:
    """The picture of one line."""

    width: float
    height: float
    posts: tuple[Post, ...]
    ropes: tuple[Rope, ...]
    open_ends: tuple[tuple[float, float], ...]
    source: tuple[float, float]


def draw_line(
    show: Show,
    line: Line,
    columns: int,
    *,
    picked: int | None,
    dark: Collection[int],
    trouble: dict[int, str],
    batteries: Mapping[int, float],
) -> LineDrawing:
    """Draw a line. ``dark`` are the stops behind a break, ``trouble`` the severity of what is wrong
    at a stop, ``batteries`` what is left in a fixture's at the end of the day (0 to 1), by
    fixture."""
    places = rows_of(line, columns)
    where = {placed.stop.id: placed for placed in places}
    posts = tuple(_post(show, placed, picked, dark, trouble, batteries) for placed in places)
    ropes = tuple(_rope(placed, where, dark) for placed in places)
    wiring = wiring_of(line)
    ends = [
        stop for section in wiring.sections for stop in wiring.ends(section) if not stop.terminates
    ]
    opens = tuple(
        (_x(where[stop.id].column) + 34, _y(where[stop.id].row))
        for stop in ends
        if stop.id in where
    )
    rows = max((placed.row for placed in places), default=0) + 1
    across = max((placed.column for placed in places), default=0)
    return LineDrawing(_x(across) + 70, TOP + rows * ROW, posts, ropes, opens, (_x(0), _y(0)))


def _x(column: int) -> float:
    return LEFT + column * PITCH


def _y(row: int) -> float:
    return TOP + row * ROW + GROUND


def _kind(stop: Stop) -> str:
    if stop.fixture is not None:
        return "fixture"
    if stop.device is Device.SPLITTER and not stop.boosted:
        return "passive"
    return str(stop.device)


def _post(
    show: Show,
    placed: Placed,
    picked: int | None,
    dark: Collection[int],
    trouble: dict[int, str],
    batteries: Mapping[int, float],
) -> Post:
    stop = placed.stop
    fixture = show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
    name = name_of(show, stop)
    shown = "120 Ω" if stop.terminates and not stop.label else name
    under = (
        f"{fixture.start:03d}"
        if fixture and fixture.start
        else (str(stop.device) if stop.label not in ("", str(stop.device)) else "")
    )
    if stop.device is Device.SPLITTER and stop.outputs:
        under = f"{stop.outputs} out"
    return Post(
        stop.id,
        _x(placed.column),
        _y(placed.row),
        _kind(stop),
        hue_of(show, fixture.position) if fixture else 0,
        shown if len(shown) <= NAME else f"{shown[: NAME - 1]}…",
        under if stop.device is not Device.TERMINATOR else "",
        name + (f", {fixture.position}" if fixture and fixture.position else ""),
        stop.id == picked,
        stop.id in dark,
        trouble.get(stop.id, ""),
        batteries.get(stop.fixture) if stop.fixture is not None else None,
    )


def _rope(placed: Placed, where: dict[int, Placed], dark: Collection[int]) -> Rope:
    """The cable from the stop before. From another row it comes down at the left and runs in from
    there."""
    stop = placed.stop
    before = where.get(stop.after) if stop.after is not None else None
    row, column = (before.row, before.column) if before else (0, 0)
    x0, y0, x1, y1 = _x(column) + 9, _y(row) - 6, _x(placed.column) - 9, _y(placed.row) - 6
    if stop.cable is Cable.WIRELESS and row == placed.row:
        x0, x1, top = _x(column), _x(placed.column), _y(row) - 34
        path = f"M{x0:g} {top:g} Q{(x0 + x1) / 2:g} {top - 22:g} {x1:g} {top + 1:g}"
        words_at = ((x0 + x1) / 2, top)
    elif row == placed.row:
        middle = (x0 + x1) / 2
        path = f"M{x0:g} {y0:g} Q{middle:g} {y0 + 2 * SAG:g} {x1:g} {y1:g}"
        words_at = (middle, y0 - 4)
    else:
        far = placed.row - row > 1  # past other rows it comes down at the edge
        aside, down, left = x0 + PITCH / 2 - 11, _y(row) + (47 if far else 42), 12 if far else _x(0)
        path = f"M{x0:g} {y0:g} H{aside:g} V{down:g} H{left:g} V{y1:g} H{x1:g}"
        words_at = ((_x(0) + x1) / 2, y1 - 4)
    length = f"{stop.length:g} m" if stop.length and not stop.terminates else ""
    return Rope(stop.id, path, str(stop.cable), length, words_at[0], words_at[1], stop.id in dark)
