"""Two more ways to repair a rig, for a crew that sets along the cable: alike neighbours stay
together in order, or everything behind a clash moves along. Both move more than the repair with the
fewest moves; a person chooses.

What these ways cannot seat (no gap holds a whole run, the universe is full, several parts) the
usual repair does.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from itertools import pairwise

from fence.core.addressing.repair import AS_USUAL, Repair, RepairMove, RepairOptions, repair_rig
from fence.core.checks import analyse
from fence.core.checks.finding import Severity
from fence.core.edits import with_places
from fence.core.model.address import SLOTS, Address, bits_of
from fence.core.model.fixture import Fixture
from fence.core.model.occupancy import slots_of
from fence.core.model.once import once_a_show
from fence.core.model.patch import Patch
from fence.core.model.show import Show
from fence.core.model.space import desk_starts, first_from, nearest, reserved_bits, sent_bits

OF_PLACE = {"overlap", "past-end", "reserved", "setter-range", "universe-limit", "page-grid"}
"""Rules that another address ends."""


@once_a_show
def keep_together(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """The repair that moves each troubled run of alike neighbours as a whole, back to back and in
    rig order.

    A run is fixtures one after the other in the rig, of one type, mode, position and universe, none
    of them pinned. It goes to the nearest gap of its universe that holds all of it, else to the
    first one of another universe.
    """
    places = _Places(show, options)
    for run in _runs(show, _troubled(show)):
        if not places.is_clear(run):
            places.move(run)
    now = _placed(show, places.targets)
    return _told(show, now, options, "Stays with its neighbours, in order.")


@once_a_show
def push_along(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """The repair that moves whoever is run into along to behind it, and so on until a gap takes up
    the push."""
    universes = {
        entry.universe for i in _troubled(show) for entry in show.fixture(i).patch if entry.universe
    }
    odd = {index for index, _ in show.occupancy.unsettable}
    targets = {
        fixture_id: to
        for universe in universes
        for fixture_id, to in _pushed(show, universe, odd).items()
    }
    return _told(show, _placed(show, targets), options, "Moves along behind the one before it.")


def _troubled(show: Show) -> set[int]:
    return {
        fixture_id
        for finding in analyse(show).findings
        if finding.severity is Severity.STOP and finding.rule in OF_PLACE
        for fixture_id in finding.fixtures
    }


@once_a_show
def _movable(show: Show) -> frozenset[int]:
    """The fixtures, by their places in the show, that can be moved by these ways: one run of
    channels with a start, no pin, shared with nobody."""
    plain = {
        key for key, mode in show.modes.items() if len(mode.parts) == 1 and mode.parts[0].footprint
    }
    return frozenset(
        index
        for index, fixture in enumerate(show.fixtures)
        if fixture.start is not None
        and (fixture.profile, fixture.mode) in plain
        and not fixture.share
        and not fixture.pinned
    )


def _runs(show: Show, troubled: set[int]) -> list[list[Fixture]]:
    """The runs of two and more alike neighbours with a troubled one among them, the longest in
    slots first."""
    fixtures, movable = show.fixtures, _movable(show)

    def kind(index: int) -> object:
        fixture = fixtures[index]
        return (fixture.profile, fixture.mode, fixture.position, fixture.universe)

    def together(index: int, other: int) -> bool:
        return other in movable and kind(index) == kind(other)

    runs, end = [], 0
    for index, fixture in enumerate(fixtures):
        if index < end or fixture.id not in troubled or index not in movable:
            continue
        first, end = index, index + 1
        while together(index, first - 1):
            first -= 1
        while together(index, end):
            end += 1
        runs.append(list(fixtures[first:end]))
    slots = {id(run): len(run) * sum(show.footprints_of(run[0])) for run in runs}
    return sorted((run for run in runs if len(run) > 1), key=lambda run: -slots[id(run)])


def _placed(show: Show, targets: Mapping[int, Address]) -> Show:
    """The show with these fixtures of one part at other addresses, in one go."""
    patches = {i: (Patch(to.universe, to.slot),) for i, to in targets.items()}
    return with_places(show.with_patches(patches)) if targets else show


def _fits(show: Show, fixture: Fixture, free: int) -> int:
    profile = show.profile_of(fixture)
    return desk_starts(
        show, free, sum(show.footprints_of(fixture)), setter=profile.setter if profile else None
    )


class _Places:
    """Who takes which slots while runs are moved one after the other."""

    def __init__(self, show: Show, options: RepairOptions) -> None:
        self.show, self.options = show, options
        self.numbers = show.universe_numbers
        self.targets: dict[int, Address] = {}
        self._owners: dict[int, dict[int, int]] = {}

    def is_clear(self, run: list[Fixture]) -> bool:
        """Whether all of a run stand where they may: moved others may have ended its trouble."""
        fits = _fits(self.show, run[0], self._free(run[0].universe or 1, run))
        each = sum(self.show.footprints_of(run[0]))
        slots = sorted(fixture.start or 1 for fixture in run)
        apart = all(after - before >= each for before, after in pairwise(slots))
        return apart and all(fits >> (slot - 1) & 1 for slot in slots)

    def move(self, run: list[Fixture]) -> None:
        """Move a run as a whole, if there is a gap for it."""
        show, lead, home = self.show, run[0], run[0].universe or 1
        numbers = [home, *(n for n in self.numbers if n != home and not self.options.stay)]
        each = sum(show.footprints_of(lead))
        step = show.desk.page or each
        if step * (len(run) - 1) >= SLOTS:
            return
        for number in numbers:
            fits = _fits(show, lead, self._free(number, run))
            whole = fits
            for place_in_run in range(1, len(run)):
                whole &= fits >> (step * place_in_run)
            slot = nearest(whole, lead.start or 1) if number == home else first_from(whole)
            if slot is None:
                continue
            if not self.targets:
                self.numbers = with_places(show).universe_numbers
            for place, fixture in enumerate(run):
                to = self.targets[fixture.id] = Address(number, slot + step * place)
                del self._owners_in(home)[fixture.id]
                self._owners_in(number)[fixture.id] = bits_of(to.slot, each)
            return

    def _owners_in(self, universe: int) -> dict[int, int]:
        if universe not in self._owners:
            owners = self._owners[universe] = dict[int, int]()
            for owner, held in self.show.owned_in(universe):
                owners[owner] = owners.get(owner, 0) | held
        return self._owners[universe]

    def _free(self, universe: int, run: list[Fixture]) -> int:
        """What is sent, not reserved, and taken by nobody but this run."""
        without, taken = {fixture.id for fixture in run}, 0
        for owner, held in self._owners_in(universe).items():
            if owner not in without:
                taken |= held
        show = self.show
        return sent_bits(show, universe) & ~taken & ~reserved_bits(show, universe)


def _pushed(show: Show, universe: int, odd: Collection[int]) -> dict[int, Address]:
    """Where those of one universe go, from its first slot on: each stays, or begins where the one
    before it ends. ``odd`` ones, by their places in the show, stand where they cannot be set."""
    fixtures, movable = show.fixtures, _movable(show)
    spans = show.occupancy.spans.get(universe, ())
    held = slots_of(span for span in spans if span[2] not in movable)
    free = sent_bits(show, universe) & ~held & ~reserved_bits(show, universe)
    may_stand = show.desk.page is None
    targets: dict[int, Address] = {}
    order = sorted(
        (first, fixtures[index].id, last, index)
        for first, last, index, _ in spans
        if index in movable
    )
    for first, fixture_id, last, index in order:
        own = (1 << last) - (1 << first - 1)
        if may_stand and own & free == own and index not in odd:
            free &= -1 << last
            continue
        fixture = fixtures[index]
        slot = first_from(_fits(show, fixture, free), first)
        if slot is None:
            continue
        if slot != first:
            targets[fixture_id] = Address(universe, slot)
        free &= -1 << slot + last - first
    return targets


def _told(before: Show, now: Show, options: RepairOptions, why: str) -> Repair:
    """The moves from before to now, with what the usual repair still has to do."""
    rest = repair_rig(now, options)
    reasons = {move.fixture: move.why for move in rest.moves}
    moves = list(_moves(before, rest.show, reasons, why))
    return Repair(
        rest.show,
        tuple(moves),
        max(0, rest.kept + len(rest.moves) - len(moves)),
        rest.unplaced,
        proven=False,
    )


def _moves(before: Show, after: Show, reasons: dict[int, str], why: str) -> Iterable[RepairMove]:
    for old, new in zip(before.fixtures, after.fixtures, strict=True):
        if old is new:
            continue
        for part, (was, then) in enumerate(zip(old.patch, new.patch, strict=False)):
            if was != then and was.address and then.address:
                yield RepairMove(new.id, part, was.address, then.address, reasons.get(new.id, why))
