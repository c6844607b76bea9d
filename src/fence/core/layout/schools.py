"""The schools of laying out addresses.

Fixtures are addressed in show order and the layout never goes back: one that does not fit in the rest of its universe
opens the next. Pinned fixtures and reserved slots stay where they are and are stepped over.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from fence.core.address import SLOTS, Address
from fence.core.edits import with_places
from fence.core.errors import EditError
from fence.core.show import Fixture, Patch, Show
from fence.core.space import bits_of, every, first_from, reserved_bits, starts

MOST_UNIVERSES = 4096
"""Universes that a layout may open when nobody set a limit."""


class School(StrEnum):
    """How the next start follows from the last."""

    BACK_TO_BACK = "back-to-back"
    PAGED = "paged"
    ROUND = "round"
    SPACED = "spaced"


@dataclass(frozen=True, slots=True)
class Layout:
    """A school with its numbers: ``page`` slots a page, ``round`` step of group starts, ``spare`` slots after each."""

    school: School
    page: int = 16
    round: int = 10
    spare: int = 0
    universes: int | None = None

    def __post_init__(self) -> None:
        for what, value, least in (
            ("page", self.page, 1),
            ("round number", self.round, 1),
            ("spare", self.spare, 0),
        ):
            if not least <= value <= SLOTS:
                raise EditError(f"A {what} of {value} is not possible: accepted are {least} to {SLOTS}.")
        if self.universes is not None and self.universes < 1:
            raise EditError(f"{self.universes} universes hold nothing: accepted are 1 and more.")


@dataclass(frozen=True, slots=True)
class Placement:
    """What a layout gives: the show, who was placed where (fixture id, part, address), and who was not."""

    show: Show
    placed: tuple[tuple[int, int, Address], ...]
    unplaced: tuple[int, ...]


class _Cursor:
    """Where the next fixture may start. It only moves on."""

    def __init__(self, show: Show, layout: Layout) -> None:
        self.show, self.layout = show, layout
        self.limit = layout.universes or show.desk.universes or MOST_UNIVERSES
        self.universe, self.slot = 1, 1
        self.blocked: dict[int, int] = {}
        for fixture in show.fixtures:
            if fixture.pinned:
                for placed in show.runs_of(fixture):
                    run = placed.run
                    self.blocked[run.universe] = self.blocked.get(run.universe, 0) | bits_of(run.first, run.length)

    def take(self, fixture: Fixture, length: int, *, opens_group: bool) -> Address | None:
        """The next start for a run of ``length``; None where the rest of the universes has no room for it."""
        slot = self.slot
        for universe in range(self.universe, self.limit + 1):
            found = first_from(self._fits(universe, fixture, length, opens_group), slot) if slot <= SLOTS else None
            if found is not None:
                self.universe = universe
                self.slot = found + length
                if self.layout.school is School.SPACED:
                    self.slot += self.layout.spare
                return Address(universe, found)
            slot = 1
            if universe > max(self.universe, *self.show.universe_by_number, *self.blocked, 1):
                break
        return None

    def _fits(self, universe: int, fixture: Fixture, length: int, opens_group: bool) -> int:
        free = bits_of(1, SLOTS) & ~self.blocked.get(universe, 0) & ~reserved_bits(self.show, universe)
        profile = self.show.profile_of(fixture)
        setter = profile.setter if profile else None
        if self.layout.school is School.PAGED:
            page = self.layout.page
            if length > page:
                return 0
            return starts(free, length, setter=setter) & every(page, last=SLOTS + 1 - page)
        fits = starts(free, length, setter=setter)
        if self.layout.school is School.ROUND and opens_group:
            fits &= every(self.layout.round, last=SLOTS)
        return fits


def group_of(fixture: Fixture) -> tuple[str, ...]:
    """What opens on a round start together: the same position, else the same profile and mode."""
    return ("at", fixture.position) if fixture.position else ("of", fixture.profile, fixture.mode)


def lay_out(show: Show, layout: Layout) -> Placement:
    """Address every fixture that is not pinned, by the rules of a school.

    Fixtures declared as shared take one run if they are alike; fixtures without channels take none.
    """
    cursor = _Cursor(show, layout)
    patches: dict[int, tuple[Patch, ...]] = {}
    shared: dict[tuple[str, str, str], tuple[Patch, ...]] = {}
    placed: list[tuple[int, int, Address]] = []
    unplaced: list[int] = []
    for fixture in show.fixtures:
        if fixture.pinned and fixture.share:
            shared.setdefault((fixture.share, fixture.profile, fixture.mode), fixture.patch)
    group: tuple[str, ...] | None = None
    for fixture in show.fixtures:
        if fixture.pinned:
            continue
        alike = (fixture.share, fixture.profile, fixture.mode)
        if fixture.share and alike in shared:
            patch = shared[alike]
        else:
            patch = _take_parts(show, cursor, fixture, opens_group=group_of(fixture) != group)
            if fixture.share:
                shared[alike] = patch
        group = group_of(fixture)
        patches[fixture.id] = patch
        starts_here = [(fixture.id, part, entry.address) for part, entry in enumerate(patch) if entry.address]
        placed += [(owner, part, address) for owner, part, address in starts_here if address]
        if len(starts_here) < sum(1 for footprint in show.footprints_of(fixture) if footprint) or not patch:
            unplaced.append(fixture.id)
    fixtures = tuple(replace(f, patch=patches[f.id] or (Patch(),)) if f.id in patches else f for f in show.fixtures)
    return Placement(with_places(replace(show, fixtures=fixtures)), tuple(placed), tuple(unplaced))


def _take_parts(show: Show, cursor: _Cursor, fixture: Fixture, *, opens_group: bool) -> tuple[Patch, ...]:
    entries = []
    for footprint in show.footprints_of(fixture):
        address = cursor.take(fixture, footprint, opens_group=opens_group) if footprint else None
        entries.append(Patch(address.universe, address.slot) if address else Patch())
        opens_group = False
    return tuple(entries)
