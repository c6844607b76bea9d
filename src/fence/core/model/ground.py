"""The ground under the cable: how far positions lie from each other and from the desk, and what is
added as slack."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.errors import EditError
from fence.core.model.line import LONGEST_RUN
from fence.core.model.text import check_finite, check_text, check_whole

DESK = ""
"""What the place of the desk is called among positions: lines begin there."""
MOST_SLACK = 300
MOST_SOCKETS = 10_000


@dataclass(frozen=True, slots=True)
class Distance:
    """Metres of cable between two positions as it would be laid; ``DESK`` names the place where
    lines begin."""

    one: str
    other: str
    metres: float

    def __post_init__(self) -> None:
        for name in (self.one, self.other):
            check_text("position", name, required=False)
        if self.one == self.other:
            raise EditError("A distance lies between two different places.")
        if not 0 <= check_finite("distance in metres", self.metres) <= LONGEST_RUN:
            raise EditError(f"{self.metres:g} m is not a distance here. Use 0 to {LONGEST_RUN} m.")

    @property
    def ends(self) -> frozenset[str]:
        """The two places, in no order."""
        return frozenset((self.one, self.other))


@dataclass(frozen=True, slots=True)
class Ground:
    """Distances, the ``slack`` in percent that is added to each cable run, and how many DMX
    ``sockets`` there are to begin at, None for as many as universes are planned."""

    distances: tuple[Distance, ...] = ()
    slack: int = 10
    sockets: int | None = None

    def __post_init__(self) -> None:
        check_whole("slack in percent", self.slack, 0, MOST_SLACK)
        if self.sockets is not None:
            check_whole("number of sockets", self.sockets, 1, MOST_SOCKETS)
        seen: set[frozenset[str]] = set()
        for distance in self.distances:
            if distance.ends in seen:
                one, other = (name or "the desk" for name in (distance.one, distance.other))
                raise EditError(f"The distance from {one} to {other} is given twice.")
            seen.add(distance.ends)


NO_GROUND = Ground()
