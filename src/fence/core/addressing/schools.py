"""The schools of laying out addresses.

Fixtures are addressed in an order and the layout never goes back: one that does not fit in the rest
of its universe opens the next. Pinned fixtures, those that are not laid out and reserved slots stay
and are stepped over.
"""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass, replace
from enum import StrEnum

from fence.core.edits import free_name, rehang, with_places
from fence.core.model.address import SLOTS, Address, bits_of
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.occupancy import slots_of
from fence.core.model.once import once_a_show
from fence.core.model.patch import Patch
from fence.core.model.sharing import alike
from fence.core.model.show import Show
from fence.core.model.space import every, first_from, reserved_bits, starts

MOST_UNIVERSES = 4096
"""Universes that a layout may open when nobody set a limit."""

VERY_FIRST = Address(1, 1)


class School(StrEnum):
    """How the next start follows from the last."""

    BACK_TO_BACK = "back-to-back"
    PAGED = "paged"
    ROUND = "round"
    SPACED = "spaced"
    SHARED = "shared"


class Order(StrEnum):
    """In which order fixtures are addressed: along the cable (the order of the rig), by number,
    position by position, or as they were picked.
    """

    CABLE = "cable"
    NUMBER = "number"
    POSITION = "position"
    PICKED = "picked"


class Spill(StrEnum):
    """When the next universe is opened: once one is full, or for every position as well."""

    FILL = "fill"
    POSITION = "position"


@dataclass(frozen=True, slots=True)
class Layout:
    """A school with its numbers.

    ``page``: slots of a page; ``round``: step of the starts of groups; ``spare``: slots left after
    each fixture; ``after_group``: slots left after each group; ``keep``: slots kept free in every
    universe; ``universes``: the highest universe number that may be used; ``first``: where the
    first fixture may start. ``ids`` are the fixtures to lay out, in the order of picking; None for
    all.
    """

    school: School
    page: int = 16
    round: int = 10
    spare: int = 0
    universes: int | None = None
    order: Order = Order.CABLE
    spill: Spill = Spill.FILL
    keep: int = 0
    after_group: int = 0
    first: Address = VERY_FIRST
    ids: tuple[int, ...] | None = None

    def __post_init__(self) -> None:
        for what, value, least in (
            ("page", self.page, 1),
            ("round number", self.round, 1),
            ("spare", self.spare, 0),
            ("room to keep", self.keep, 0),
            ("room after a group", self.after_group, 0),
        ):
            if not least <= value <= SLOTS:
                raise EditError(f"A {what} of {value} is not possible. Use {least} to {SLOTS}.")
        if self.universes is not None and self.universes < 1:
            raise EditError(f"{self.universes} universes hold nothing. Use 1 and more.")


@dataclass(frozen=True, slots=True)
class Placement:
    """What a layout gives: the show, who was placed where (fixture id, part, address), and who was
    not."""

    show: Show
    placed: tuple[tuple[int, int, Address], ...]
    unplaced: tuple[int, ...]


class _Cursor:
    """Where the next fixture may start. It only moves on. The ``moving`` ones, by their places in
    the show, are in nobody's way."""

    def __init__(self, show: Show, layout: Layout, moving: Set[int]) -> None:
        self.show, self.layout = show, layout
        self.limit = layout.universes or show.desk.universes or MOST_UNIVERSES
        self.universe, self.slot = layout.first.universe, layout.first.slot
        self.used = 0
        self.blocked: dict[int, int] = {}
        taking = show.occupancy
        for universe, spans in taking.spans.items():
            if moving.isdisjoint(taking.placed_in(universe)):
                self.blocked[universe] = show.taken_in(universe)
            elif held := slots_of(span for span in spans if span[2] not in moving):
                self.blocked[universe] = held

    def take(self, fixture: Fixture, length: int, *, opens_group: bool) -> Address | None:
        """The next start for a run of ``length``; None where the rest of the universes has no room
        for it."""
        slot, used = self.slot, self.used
        for universe in range(self.universe, self.limit + 1):
            found = None
            if slot <= SLOTS and self._room(universe, used) >= length:
                found = first_from(self._fits(universe, fixture, length, opens_group), slot)
            if found is not None:
                self.universe, self.used = universe, used + length
                self.slot = found + length
                if self.layout.school is School.SPACED:
                    self.slot += self.layout.spare
                return Address(universe, found)
            slot, used = 1, 0
            if universe > max(self.universe, *self.show.universe_by_number, *self.blocked, 1):
                break
        return None

    def open_universe(self) -> None:
        """Go on in the next universe, unless nothing was placed in this one."""
        if self.used:
            self.universe, self.slot, self.used = self.universe + 1, 1, 0

    def leave_room(self, slots: int) -> None:
        """Skip slots of this universe."""
        if self.used:
            self.slot += slots

    def _room(self, universe: int, used: int) -> int:
        """Slots of a universe that may still be taken, without those that are kept free."""
        return (self._free(universe)).bit_count() - used - self.layout.keep

    def _free(self, universe: int) -> int:
        usable = bits_of(1, self.show.desk.highest)
        return usable & ~self.blocked.get(universe, 0) & ~reserved_bits(self.show, universe)

    def _fits(self, universe: int, fixture: Fixture, length: int, opens_group: bool) -> int:
        free = self._free(universe)
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


def ordered(show: Show, layout: Layout) -> list[Fixture]:
    """The fixtures that a layout addresses, in its order: picked, not pinned, in a mode that is
    known."""
    chosen = None if layout.ids is None else set(layout.ids)
    found = [
        f
        for f in show.fixtures
        if not f.pinned and (chosen is None or f.id in chosen) and show.mode_of(f) is not None
    ]
    if layout.order is Order.NUMBER:
        found.sort(key=lambda fixture: (fixture.number is None, fixture.number or 0))
    elif layout.order is Order.POSITION:
        rank = {position.name: place for place, position in enumerate(show.positions)}
        found.sort(key=lambda fixture: rank.get(fixture.position, len(rank)))
    elif layout.order is Order.PICKED and layout.ids is not None:
        place = {fixture_id: at for at, fixture_id in enumerate(layout.ids)}
        found.sort(key=lambda fixture: place[fixture.id])
    return found


@once_a_show
def lay_out(show: Show, layout: Layout) -> Placement:
    """Address fixtures by the rules of a school.

    Fixtures declared as shared take one run if they are alike, and stay with a member that is not
    laid out; fixtures without channels take none. ``SHARED`` first declares all alike fixtures that
    are laid out as shared. Raises ``EditError`` for an id that the show does not have.
    """
    for fixture_id in layout.ids or ():
        show.fixture(fixture_id)
    if layout.school is School.SHARED:
        show = _declare_alike(show, layout)
    order = ordered(show, layout)
    moving = {fixture.id for fixture in order}
    staying = [fixture for fixture in show.fixtures if fixture.id not in moving]
    shared = {alike(f): f.patch for f in reversed(staying) if f.share and f.start is not None}
    cursor = _Cursor(show, layout, {show.index_by_id[fixture_id] for fixture_id in moving})
    patches: dict[int, tuple[Patch, ...]] = {}
    placed: list[tuple[int, int, Address]] = []
    wanted = None if layout.ids is None else set(layout.ids)
    unplaced = [
        f.id
        for f in (show.fixtures[index] for index in show.occupancy.modeless)
        if not f.pinned and (wanted is None or f.id in wanted)
    ]
    before: Fixture | None = None
    for fixture in order:
        kin = alike(fixture)
        if fixture.share and kin in shared and any(show.footprints_of(fixture)):
            patch = shared[kin]
        else:
            _between(cursor, layout, before, fixture)
            opens = before is None or group_of(fixture) != group_of(before)
            patch = _take_parts(show, cursor, fixture, opens_group=opens)
            if fixture.share:
                shared[kin] = patch
        before = fixture
        patches[fixture.id] = patch
        placed += [
            (fixture.id, part, entry.address) for part, entry in enumerate(patch) if entry.address
        ]
        starts_here = sum(1 for entry in patch if entry.address)
        if (
            starts_here < sum(1 for footprint in show.footprints_of(fixture) if footprint)
            or not patch
        ):
            unplaced.append(fixture.id)
    laid = show.with_patches({one: patch or (Patch(),) for one, patch in patches.items()})
    then = rehang(with_places(laid), patches)
    return Placement(then, tuple(placed), tuple(unplaced))


def _between(cursor: _Cursor, layout: Layout, before: Fixture | None, fixture: Fixture) -> None:
    """What a layout leaves between two groups: another universe, or some slots."""
    if before is None:
        return
    if layout.spill is Spill.POSITION and before.position != fixture.position:
        cursor.open_universe()
    elif group_of(before) != group_of(fixture):
        cursor.leave_room(layout.after_group)


def _take_parts(
    show: Show, cursor: _Cursor, fixture: Fixture, *, opens_group: bool
) -> tuple[Patch, ...]:
    entries = []
    for footprint in show.footprints_of(fixture):
        address = cursor.take(fixture, footprint, opens_group=opens_group) if footprint else None
        entries.append(Patch(address.universe, address.slot) if address else Patch())
        opens_group = False
    return tuple(entries)


def _declare_alike(show: Show, layout: Layout) -> Show:
    """Declare the fixtures of a layout as shared, those of one profile and mode together; a single
    one stays alone."""
    groups: dict[tuple[str, str], list[Fixture]] = {}
    for fixture in ordered(show, layout):
        if sum(show.footprints_of(fixture)):
            groups.setdefault((fixture.profile, fixture.mode), []).append(fixture)
    taken = {fixture.share for fixture in show.fixtures}
    named: dict[int, str] = {}
    for members in groups.values():
        if len(members) > 1:
            name = next((m.share for m in members if m.share), "") or free_name(
                f"{members[0].label} group", taken
            )
            taken.add(name)
            named |= {member.id: name for member in members}
    fixtures = tuple(replace(f, share=named[f.id]) if f.id in named else f for f in show.fixtures)
    return replace(show, fixtures=fixtures)
