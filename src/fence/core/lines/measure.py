"""Lengths of cable runs from what is known of the place: places in metres, distances of positions,
spacing at them, slack."""

from __future__ import annotations

from collections.abc import Collection
from functools import cached_property
from heapq import heappop, heappush
from math import ceil

from fence.core.edits.cabling import set_cable_runs
from fence.core.model.errors import EditError
from fence.core.model.ground import DESK
from fence.core.model.line import Cable, Device, Line
from fence.core.model.scene import Place
from fence.core.model.show import Show
from fence.core.model.wiring import wiring_of

SHORTEST = 1
"""Metres of the shortest cable that is laid."""

Spot = tuple[str, int] | None
"""Where a stop stands: a position with the place of the fixture in its row; None where nobody has
said."""
AT_THE_DESK: Spot = (DESK, 0)


class Tape:
    """The ways of a show. The shortest known one counts, over other positions if need be."""

    def __init__(self, show: Show) -> None:
        self.show = show
        self._from: dict[str, dict[str, float]] = {}
        self._spacing = {position.name: position.spacing for position in show.positions}

    @cached_property
    def _near(self) -> dict[str, list[tuple[str, float]]]:
        near: dict[str, list[tuple[str, float]]] = {}
        for way in self.show.ground.distances:
            near.setdefault(way.one, []).append((way.other, way.metres))
            near.setdefault(way.other, []).append((way.one, way.metres))
        return near

    @cached_property
    def spots(self) -> dict[int, Spot]:
        """Where each fixture hangs: its position, and the how-manieth it is there as the rig list
        runs."""
        counts: dict[str, int] = {}
        found: dict[int, Spot] = {}
        for fixture in self.show.fixtures:
            rank = counts[fixture.position] = counts.get(fixture.position, -1) + 1
            found[fixture.id] = (fixture.position, rank) if fixture.position else None
        return found

    @cached_property
    def placed(self) -> dict[Spot, Place]:
        """The places in metres of those spots at which they are known."""
        by_id = self.show.fixture_by_id
        return {
            spot: at
            for fixture_id, spot in self.spots.items()
            if spot is not None and (at := by_id[fixture_id].at) is not None
        }

    def way(self, one: str, other: str) -> float | None:
        """Metres between two places by the shortest known way, without slack; None where none is
        known."""
        if one not in self._from:
            best: dict[str, float] = {}
            waiting = [(0.0, one)]
            while waiting:
                metres, place = heappop(waiting)
                if place in best:
                    continue
                best[place] = metres
                for further, step in self._near.get(place, ()):
                    if further not in best:
                        heappush(waiting, (metres + step, further))
            self._from[one] = best
        return self._from[one].get(other)

    def run(self, one: Spot, other: Spot) -> int | None:
        """Whole metres of the cable from spot to spot, slack added and rounded up; None where not
        known."""
        if one is None or other is None:
            return None
        metres = self._metres(one, other)
        if metres is None:
            return None
        return max(SHORTEST, ceil(round(metres * (100 + self.show.ground.slack) / 100, 6)))

    def _metres(self, one: tuple[str, int], other: tuple[str, int]) -> float | None:
        """Metres between two spots: at one position by the places of both, else by its spacing;
        between positions by the distance that somebody gave, else by the places of both, along
        level and upright."""
        here, there = self.placed.get(one), self.placed.get(other)
        between = here.along(there) if here is not None and there is not None else None
        if one[0] != other[0]:
            way = self.way(one[0], other[0])
            return between if way is None else way
        if one[1] == other[1]:
            return 0.0
        if between is not None:
            return between
        spacing = self._spacing.get(one[0])
        return None if spacing is None else spacing * abs(one[1] - other[1])


def cable_runs_of(tape: Tape, line: Line) -> dict[int, int | None]:
    """The length of each cable run of a line by stop, as reckoned. A device stands beside the stop
    before it, an adapter on the plug of the one that follows."""
    spots: dict[int | None, Spot] = {None: AT_THE_DESK}
    found: dict[int, int | None] = {}
    wiring = wiring_of(line)
    on_plug = set()
    for stop in line.stops:
        before = spots[stop.after]
        here = before if stop.fixture is None else tape.spots.get(stop.fixture)
        if (
            stop.device is Device.ADAPTER
            and (after := wiring.children.get(stop.id))
            and after[0].fixture is not None
        ):
            here = tape.spots.get(after[0].fixture)
            on_plug.add(after[0].id)
        spots[stop.id] = here
        if stop.cable is not Cable.WIRELESS:
            found[stop.id] = 0 if stop.terminates or stop.id in on_plug else tape.run(before, here)
    return found


def measure(show: Show, line_ids: Collection[int] = (), *, only_unknown: bool = True) -> Show:
    """Set the lengths of cable runs from the distances, of all lines or some; those that nobody can
    reckon stay.

    Raises ``EditError`` where nothing could be reckoned.
    """
    tape = Tape(show)
    reckoned = 0
    for line in show.lines:
        if line_ids and line.id not in line_ids:
            continue
        held = {stop.id: stop.length for stop in line.stops}
        lengths = {
            stop: float(metres)
            for stop, metres in cable_runs_of(tape, line).items()
            if metres is not None and (held[stop] is None or not only_unknown)
        }
        reckoned += len(lengths)
        show = set_cable_runs(show, line.id, lengths)
    if not reckoned:
        raise EditError(
            "No length could be calculated: say how far positions lie from the desk and from each "
            "other, and how far fixtures hang apart, or where they hang in metres."
        )
    return show
