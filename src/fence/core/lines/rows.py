"""Where the stops of a line stand on its picture: in rows from the source on, branches below."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.words.line import Line, Stop
from fence.core.words.wiring import wiring_of


@dataclass(frozen=True, slots=True)
class Placed:
    """A stop at its place: which row, which column (from 1; the source is 0). ``rest`` where a row goes on from."""

    stop: Stop
    row: int
    column: int
    parent: tuple[int, int]
    opens: bool


def rows_of(line: Line, columns: int) -> tuple[Placed, ...]:
    """Every stop at a place of its own, at most ``columns`` in a row. A chain that is longer goes on in the next row.

    The first branch goes on in the row of its stop, every other one opens a row below all that stands by then.
    """
    wiring = wiring_of(line)
    placed: list[Placed] = []
    rows = -1
    waiting: list[tuple[Stop, tuple[int, int], bool]] = [
        (stop, (0, 0), at > 0) for at, stop in reversed(list(enumerate(wiring.children.get(None, ()))))
    ]
    if waiting:
        rows = 0
    at_row, at_column = 0, 0
    while waiting:
        stop, parent, fresh = waiting.pop()
        if fresh:
            rows += 1
            at_row, at_column = rows, 1
        else:
            at_row, at_column = parent[0], parent[1] + 1
            if at_column > columns:
                rows += 1
                at_row, at_column = rows, 1
        placed.append(Placed(stop, at_row, at_column, parent, at_row != parent[0] or parent == (0, 0)))
        following = wiring.children.get(stop.id, [])
        here = (at_row, at_column)
        waiting += [(child, here, number > 0) for number, child in reversed(list(enumerate(following)))]
    return tuple(placed)
