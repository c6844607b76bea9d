"""Two more ways to repair a rig, for a crew that sets along the cable: alike neighbours stay
together in order, or everything behind a clash moves along. Both move more than the repair with the
fewest moves; a person chooses.

What these ways cannot seat (no gap holds a whole run, the universe is full, several parts) the
usual repair does.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from itertools import groupby, pairwise

from fence.core.addressing.repair import AS_USUAL, Repair, RepairMove, RepairOptions, repair_rig
from fence.core.checks import analyse
from fence.core.checks.finding import Severity
from fence.core.edits import with_places
from fence.core.model.address import SLOTS, Address, bits_of
from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.patch import Patch
from fence.core.model.sharing import holder_of
from fence.core.model.show import Show
from fence.core.model.space import desk_starts, first_from, free_bits, nearest

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
    now, troubled = show, _troubled(show)
    for run in _runs(show):
        if any(fixture.id in troubled for fixture in run) and not _is_clear(now, run):
            now = _moved_together(now, run, options)
    return _told(show, now, options, "Stays with its neighbours, in order.")


@once_a_show
def push_along(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """The repair that moves whoever is run into along to behind it, and so on until a gap takes up
    the push."""
    universes = {
        entry.universe for i in _troubled(show) for entry in show.fixture(i).patch if entry.universe
    }
    targets = {
        fixture_id: to
        for universe in universes
        for fixture_id, to in _pushed(show, universe).items()
    }
    return _told(show, _placed(show, targets), options, "Moves along behind the one before it.")


def _troubled(show: Show) -> set[int]:
    return {
        fixture_id
        for finding in analyse(show).findings
        if finding.severity is Severity.STOP and finding.rule in OF_PLACE
        for fixture_id in finding.fixtures
    }


def _movable(show: Show, fixture: Fixture) -> bool:
    """Whether it can be moved by these ways: one run of channels with a start, no pin, shared with
    nobody."""
    footprints = show.footprints_of(fixture)
    plain = len(footprints) == 1 and footprints[0] > 0 and fixture.start is not None
    return plain and not fixture.share and holder_of(show, fixture) is None


def _runs(show: Show) -> list[list[Fixture]]:
    """The runs of two and more alike neighbours, the longest in slots first."""

    def kind(fixture: Fixture) -> object:
        movable = _movable(show, fixture)
        return (
            (fixture.profile, fixture.mode, fixture.position, fixture.universe)
            if movable
            else fixture.id
        )

    runs = [list(members) for _, members in groupby(show.fixtures, kind)]
    slots = {id(run): sum(sum(show.footprints_of(fixture)) for fixture in run) for run in runs}
    return sorted((run for run in runs if len(run) > 1), key=lambda run: -slots[id(run)])


def _placed(show: Show, targets: Mapping[int, Address]) -> Show:
    """The show with these fixtures of one part at other addresses, in one go."""
    patches = {i: (Patch(to.universe, to.slot),) for i, to in targets.items()}
    fixtures = tuple(
        replace(f, patch=patches[f.id]) if f.id in patches else f for f in show.fixtures
    )
    return with_places(replace(show, fixtures=fixtures)) if targets else show


def _fits(show: Show, fixture: Fixture, free: int) -> int:
    profile = show.profile_of(fixture)
    return desk_starts(
        show, free, sum(show.footprints_of(fixture)), setter=profile.setter if profile else None
    )


def _is_clear(show: Show, run: list[Fixture]) -> bool:
    """Whether all of a run stand where they may: moved others may have ended its trouble."""
    free = free_bits(show, run[0].universe or 1, without={fixture.id for fixture in run})
    fits = _fits(show, run[0], free)
    each, slots = sum(show.footprints_of(run[0])), sorted(fixture.start or 1 for fixture in run)
    apart = all(after - before >= each for before, after in pairwise(slots))
    return apart and all(fits >> (slot - 1) & 1 for slot in slots)


def _moved_together(show: Show, run: list[Fixture], options: RepairOptions) -> Show:
    lead = run[0]
    ids, home = {fixture.id for fixture in run}, lead.universe or 1
    numbers = [home, *(n for n in show.universe_numbers if n != home and not options.stay)]
    step = show.desk.page or sum(show.footprints_of(lead))
    if step * (len(run) - 1) >= SLOTS:
        return show
    for number in numbers:
        fits = _fits(show, lead, free_bits(show, number, without=ids))
        whole = fits
        for place_in_run in range(1, len(run)):
            whole &= fits >> (step * place_in_run)
        slot = nearest(whole, lead.start or 1) if number == home else first_from(whole)
        if slot is not None:
            return _placed(
                show, {f.id: Address(number, slot + step * n) for n, f in enumerate(run)}
            )
    return show


def _pushed(show: Show, universe: int) -> dict[int, Address]:
    """Where those of one universe go, from its first slot on: each stays, or begins where the one
    before it ends."""
    placed = [p for p in show.runs_in(universe) if _movable(show, p.fixture)]
    free = free_bits(show, universe, without={p.fixture.id for p in placed})
    targets = {}
    for here in sorted(placed, key=lambda p: (p.run.first, p.fixture.id)):
        slot = first_from(_fits(show, here.fixture, free), here.run.first)
        if slot is None:
            continue
        if slot != here.run.first:
            targets[here.fixture.id] = Address(universe, slot)
        free &= ~bits_of(1, slot + here.run.length - 1)
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
        for part, (was, then) in enumerate(zip(old.patch, new.patch, strict=False)):
            if was != then and was.address and then.address:
                yield RepairMove(new.id, part, was.address, then.address, reasons.get(new.id, why))
