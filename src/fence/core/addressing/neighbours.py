"""Two more ways to repair a rig, for a crew that sets along the cable: alike neighbours stay together in order, or
everything behind a clash moves along. Both move more than the repair with the fewest moves; a person chooses.

What these ways cannot seat (no gap holds a whole run, the universe is full, several parts) the usual repair does.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import groupby

from fence.core.addressing.repair import AS_USUAL, Repair, RepairMove, RepairOptions, repair_rig
from fence.core.changes.edits import place
from fence.core.checks import check
from fence.core.checks.finding import Severity
from fence.core.words.address import Address, bits_of
from fence.core.words.fixture import Fixture
from fence.core.words.sharing import holder_of
from fence.core.words.show import Show
from fence.core.words.space import desk_starts, first_from, free_bits, nearest

OF_PLACE = {"overlap", "past-end", "reserved", "setter-range", "universe-limit", "page-grid"}
"""Rules that another address ends."""


def keep_together(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """The repair that moves each troubled run of alike neighbours as a whole, back to back and in rig order.

    A run is fixtures one after the other in the rig, of one type, mode, position and universe, none of them pinned. It
    goes to the nearest gap of its universe that holds all of it, else to the first one of another universe.
    """
    now = show
    for run in _runs(show):
        troubled = _troubled(now)
        if any(fixture.id in troubled for fixture in run):
            now = _moved_together(now, [now.fixture(fixture.id) for fixture in run], options)
    return _told(show, now, options, "Stays with its neighbours, in order.")


def push_along(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """The repair that moves whoever is run into along to behind it, and so on until a gap takes up the push."""
    now = show
    troubled = _troubled(show)
    universes = {entry.universe for i in troubled for entry in show.fixture(i).patch if entry.universe}
    for universe in sorted(universes):
        now = _pushed(now, universe)
    return _told(show, now, options, "Moves along behind the one before it.")


def _troubled(show: Show) -> set[int]:
    return {
        fixture_id
        for finding in check(show)
        if finding.severity is Severity.STOP and finding.rule in OF_PLACE
        for fixture_id in finding.fixtures
    }


def _movable(show: Show, fixture: Fixture) -> bool:
    """Whether it can be moved by these ways: one run of channels with a start, no pin, shared with nobody."""
    footprints = show.footprints_of(fixture)
    plain = len(footprints) == 1 and footprints[0] > 0 and fixture.start is not None
    return plain and not fixture.share and holder_of(show, fixture) is None


def _runs(show: Show) -> list[list[Fixture]]:
    """The runs of two and more alike neighbours, the longest in slots first."""

    def kind(fixture: Fixture) -> object:
        movable = _movable(show, fixture)
        return (fixture.profile, fixture.mode, fixture.position, fixture.universe) if movable else fixture.id

    runs = [list(members) for _, members in groupby(show.fixtures, kind)]
    slots = {id(run): sum(sum(show.footprints_of(fixture)) for fixture in run) for run in runs}
    return sorted((run for run in runs if len(run) > 1), key=lambda run: -slots[id(run)])


def _moved_together(show: Show, run: list[Fixture], options: RepairOptions) -> Show:
    lead = run[0]
    each = sum(show.footprints_of(lead))
    profile, ids = show.profile_of(lead), {fixture.id for fixture in run}
    home = lead.universe or 1
    numbers = [home, *(n for n in show.universe_numbers if n != home and not options.stay)]
    step = show.desk.page or each
    for number in numbers:
        free = free_bits(show, number, without=ids)
        fits = desk_starts(show, free, each, setter=profile.setter if profile else None)
        whole = fits
        for place_in_run in range(1, len(run)):
            whole &= fits >> (step * place_in_run)
        slot = nearest(whole, lead.start or 1) if number == home else first_from(whole)
        if slot is not None:
            for place_in_run, fixture in enumerate(run):
                show = place(show, fixture.id, Address(number, slot + step * place_in_run))
            return show
    return show


def _pushed(show: Show, universe: int) -> Show:
    """One universe from its first slot on: each stays, or begins where the one before it ends."""
    placed = [p for p in show.runs_in(universe) if _movable(show, p.fixture)]
    ids = {p.fixture.id for p in placed}
    free = free_bits(show, universe, without=ids)
    for here in sorted(placed, key=lambda p: (p.run.first, p.fixture.id)):
        profile = show.profile_of(here.fixture)
        fits = desk_starts(show, free, here.run.length, setter=profile.setter if profile else None)
        slot = first_from(fits, here.run.first)
        if slot is None:
            continue
        if slot != here.run.first:
            show = place(show, here.fixture.id, Address(universe, slot))
        free &= ~bits_of(1, slot + here.run.length - 1)
    return show


def _told(before: Show, now: Show, options: RepairOptions, why: str) -> Repair:
    """The moves from before to now, with what the usual repair still has to do."""
    rest = repair_rig(now, options)
    reasons = {move.fixture: move.why for move in rest.moves}
    moves = list(_moves(before, rest.show, reasons, why))
    return Repair(
        rest.show, tuple(moves), max(0, rest.kept + len(rest.moves) - len(moves)), rest.unplaced, proven=False
    )


def _moves(before: Show, after: Show, reasons: dict[int, str], why: str) -> Iterable[RepairMove]:
    for old, new in zip(before.fixtures, after.fixtures, strict=True):
        for part, (was, then) in enumerate(zip(old.patch, new.patch, strict=False)):
            if was != then and was.address and then.address:
                yield RepairMove(new.id, part, was.address, then.address, reasons.get(new.id, why))
