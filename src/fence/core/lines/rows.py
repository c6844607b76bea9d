"""Where the stops of a line stand on its picture: in rows from the source on, branches below."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from fence.core.model.line import Cable, Line, Stop
from fence.core.model.wiring import Wiring, wiring_of


@dataclass(frozen=True, slots=True)
class Placed:
    """A stop at its place: which row, which column (from 1; the source is 0). ``rest`` where a row
    goes on from."""

    stop: Stop
    row: int
    column: int
    parent: tuple[int, int]
    opens: bool


def rows_of(line: Line, columns: int) -> tuple[Placed, ...]:
    """Every stop at a place of its own, at most ``columns`` in a row. A chain that is longer goes
    on in the next row.

    The first branch goes on in the row of its stop, every other one opens a row below all that
    stands by then. Those that only listen to one transmitter stand beside each other.
    """
    wiring = wiring_of(line)
    placed: list[Placed] = []
    rows = -1
    beside = {stop.id for stops in wiring.children.values() for stop in _listening(wiring, stops)}
    waiting: list[tuple[Stop, tuple[int, int], bool]] = [
        (stop, (0, 0), at > 0)
        for at, stop in reversed(list(enumerate(wiring.children.get(None, ()))))
    ]
    if waiting:
        rows = 0
    at_row, at_column = 0, 0
    while waiting:
        stop, parent, fresh = waiting.pop()
        if fresh and stop.id in beside:
            at_column += 1
        elif fresh:
            rows += 1
            at_row, at_column = rows, 1
        else:
            at_row, at_column = parent[0], parent[1] + 1
        if at_column > columns:
            rows += 1
            at_row, at_column = rows, 1
        placed.append(
            Placed(stop, at_row, at_column, parent, at_row != parent[0] or parent == (0, 0))
        )
        following = wiring.children.get(stop.id, [])
        here = (at_row, at_column)
        waiting += [
            (child, here, number > 0) for number, child in reversed(list(enumerate(following)))
        ]
    return tuple(placed)


def _listening(wiring: Wiring, stops: list[Stop]) -> list[Stop]:
    """Of the stops on one transmitter those that stand beside the one before: both hear it by
    wireless and hand nothing on."""

    def only_hears(stop: Stop) -> bool:
        return stop.cable is Cable.WIRELESS and not wiring.children.get(stop.id)

    return [stop for before, stop in pairwise(stops) if only_hears(before) and only_hears(stop)]
