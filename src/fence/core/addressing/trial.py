"""Trying something on a copy: does it fit, what does it take, and how many more would fit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

from fence.core.addressing.packing import packs_quickly
from fence.core.addressing.repair import MendOptions, mend_show
from fence.core.changes import edits
from fence.core.changes.edits import AddRun
from fence.core.checks import Severity, check
from fence.core.words.address import EVERY_SLOT, MAX_UNIVERSE
from fence.core.words.profile import Mode, Profile
from fence.core.words.show import Fixture, Patch, Show
from fence.core.words.space import bits_of, desk_starts, every, first_from, free_bits, gaps, reserved_bits

MOST_ASKED = 4096
"""How many more fixtures are counted at most."""


@dataclass(frozen=True, slots=True)
class Trial:
    """What to try: fixtures to ``add``, other ``modes`` by fixture id, another number of ``universes`` on the desk."""

    add: AddRun | None = None
    modes: Mapping[int, str] = field(default_factory=dict)
    universes: int | None = None


@dataclass(frozen=True, slots=True)
class TrialResult:
    """The show as it would be. ``fits`` when all have a place without a new clash.

    ``moved`` says why others had to move for it, by id; ``without`` names the ids that found no place; ``opened`` the
    universes that the show did not have. What clashed before is left as it is.
    """

    show: Show
    fits: bool
    moved: Mapping[int, str]
    without: tuple[int, ...]
    opened: tuple[int, ...]


def try_out(show: Show, trial: Trial) -> TrialResult:
    """Try it: first into the gaps as they are, then by moving others, then in further universes.

    Raises ``EditError`` where the trial itself cannot be: no such mode, a quantity out of range.
    """
    tried = show
    if trial.universes is not None:
        tried = edits.set_desk(tried, replace(tried.desk, universes=trial.universes))
    tried = edits.choose_modes(tried, trial.modes)
    added: frozenset[int] = frozenset()
    if trial.add is not None:
        before = tried.next_id
        tried = _into_known_universes(edits.add_fixtures(tried, trial.add), show, before)
        added = frozenset(range(before, tried.next_id))
    waiting = _waiting(tried, added)
    held = _troubled(show) - trial.modes.keys() if trial.universes is None else frozenset[int]()
    lined_up = _held_fast(_lined_up(tried, waiting), held)
    for open_more in (False, True):
        repair = mend_show(lined_up, MendOptions(new_universes=open_more, willing=waiting))
        if not repair.unplaced:
            break
    without = frozenset(repair.unplaced)
    after = edits.unplace(_let_go(repair.show, tried), without & waiting)
    moved = {m.fixture: m.why for m in repair.moves if m.fixture not in waiting | without}
    known = show.universe_by_number
    taken = after.taken
    return TrialResult(
        after,
        not without,
        moved,
        tuple(fixture.id for fixture in after.fixtures if fixture.id in without),
        tuple(number for number in sorted(taken) if number not in known),
    )


def _troubled(show: Show) -> frozenset[int]:
    """Those that a stop names already: a trial leaves them where they are."""
    return frozenset(i for finding in check(show) if finding.severity is Severity.STOP for i in finding.fixtures)


def _held_fast(show: Show, ids: Collection[int]) -> Show:
    if not ids:
        return show
    pinned = (replace(f, pinned=True) if f.id in ids and not f.pinned else f for f in show.fixtures)
    return replace(show, fixtures=tuple(pinned))


def _let_go(show: Show, before: Show) -> Show:
    """The show with its pins as they were."""
    pins = {fixture.id: fixture.pinned for fixture in before.fixtures}
    freed = (f if f.pinned == pins[f.id] else replace(f, pinned=pins[f.id]) for f in show.fixtures)
    return replace(show, fixtures=tuple(freed))


def _waiting(show: Show, added: frozenset[int]) -> frozenset[int]:
    """The added fixtures that have no place yet and need one."""
    return frozenset(
        fixture_id
        for fixture_id in added
        if any(
            footprint and patch.slot is None
            for footprint, patch in zip(
                show.footprints_of(show.fixture_by_id[fixture_id]), show.fixture_by_id[fixture_id].patch, strict=False
            )
        )
    )


def _into_known_universes(show: Show, before: Show, first_new: int) -> Show:
    """Take back the places of added fixtures in universes that the show does not have: others move first."""
    known = before.universe_by_number
    far = [f.id for f in show.fixtures if f.id >= first_new and any(p.universe not in known for p in f.patch)]
    return replace(edits.unplace(show, far), universes=before.universes) if far else show


def _lined_up(show: Show, waiting: frozenset[int]) -> Show:
    """The show with the waiting ones at the first slot of their universe, from where the repair seats them."""

    def placed(fixture: Fixture) -> Fixture:
        home = fixture.universe or min(show.universe_by_number, default=1)
        return replace(fixture, patch=tuple(Patch(home, 1) for _ in fixture.patch))

    return replace(show, fixtures=tuple(placed(f) if f.id in waiting else f for f in show.fixtures))


# ---- how many more


@dataclass(frozen=True, slots=True)
class Room:
    """How many more fixtures of a mode fit into the show's universes: moving nobody, and moving all but the pinned."""

    profile: Profile
    mode: Mode
    as_it_is: int
    with_moves: int


def room_for_more(show: Show) -> list[Room]:
    """How many more of each mode in use would fit. Modes with one run of channels only.

    With moves the limits of address setters are left out of the sum, and it is a count that was found by packing: a
    cleverer packing might hold one more.
    """
    used = dict.fromkeys((fixture.profile, fixture.mode) for fixture in show.fixtures)
    lengths = _loose_lengths(show)
    bins = _loose_bins(show)
    rooms = []
    for profile_id, mode_name in used:
        profile, mode = show.profile_by_id.get(profile_id), show.modes.get((profile_id, mode_name))
        if profile is None or mode is None or len(mode.parts) != 1 or not mode.footprint:
            continue
        now = sum(_more_in(show, number, mode.footprint, profile) for number in _usable(show))
        rooms.append(Room(profile, mode, now, max(now, _more_packed(show, lengths, bins, mode.footprint))))
    return sorted(rooms, key=lambda room: (room.profile.title.casefold(), room.mode.footprint))


def _usable(show: Show) -> list[int]:
    limit = show.desk.universes or MAX_UNIVERSE
    return [number for number in show.universe_by_number if number <= limit]


def _more_in(show: Show, universe: int, length: int, profile: Profile) -> int:
    """How many runs of a length go into the gaps of a universe one by one, at places that can be set."""
    fits, count, slot = desk_starts(show, free_bits(show, universe), length, setter=profile.setter), 0, 1
    while (found := first_from(fits, slot)) is not None:
        count, slot = count + 1, found + (show.desk.page or length)
    return count


def _loose_lengths(show: Show) -> Counter[int]:
    """How many runs of each length could move, sharers once; whole pages on a paged desk."""
    lengths, seen = Counter[int](), set[object]()
    for number in _usable(show):
        for placed in show.runs_in(number):
            key = (placed.fixture.share, placed.run, placed.part) if placed.fixture.share else None
            if placed.fixture.pinned or (key is not None and key in seen):
                continue
            seen.add(key)
            lengths[show.desk.page or placed.run.length] += 1
    return lengths


def _loose_bins(show: Show) -> list[int]:
    """The room of the universes with only the pinned in them."""
    bins, page = [], show.desk.page
    for number in _usable(show):
        taken = reserved_bits(show, number) | (EVERY_SLOT & ~bits_of(1, show.desk.highest))
        for placed in show.runs_in(number):
            if placed.fixture.pinned:
                taken |= bits_of(placed.run.first, placed.run.length)
        free = EVERY_SLOT & ~taken
        if page is None:
            bins += [gap.length for gap in gaps(free)]
        else:
            bins.append(page * (desk_starts(show, free, page) & every(page)).bit_count())
    return bins


def _more_packed(show: Show, lengths: Counter[int], bins: list[int], footprint: int) -> int:
    """The largest number of further runs for which a quick packing is found, by halving."""
    page = show.desk.page
    if page is not None and footprint > page:
        return 0
    length = page or footprint
    low, high = 0, min(MOST_ASKED, max(0, (sum(bins) - sum(n * count for n, count in lengths.items())) // length))
    while low < high:
        middle = (low + high + 1) // 2
        if packs_quickly(lengths + Counter({length: middle}), bins):
            low = middle
        else:
            high = middle - 1
    return low
