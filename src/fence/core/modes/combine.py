"""Which mode for which fixture: what each gives of what the show needs, and the best combination
for the whole rig.

A combination is a knapsack: every fixture takes one of its modes, all together must fit into the
universes. The best sum is found exactly over the total of channels, by dynamic programming with a
Lagrangian bound; that the runs then really fit side by side is shown by packing them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from operator import le

from fence.core.addressing.packing import Packing, pack, packs_quickly
from fence.core.model.address import EVERY_SLOT, bits_of
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.sharing import Alike, alike
from fence.core.model.show import Show
from fence.core.model.space import gaps, page_rooms, reserved_bits
from fence.core.modes.advice import Offer, Wanted, offers_of, wanted_of_each
from fence.core.modes.knapsack import Option, Unit, best_choice

MOST_UNIVERSES = 512
"""Universes that a combination may be spread over."""
SEARCH_LEAVES = 400
"""Combinations whose packing is tried one by one, where the best sum does not fit side by side."""
SEARCH_UNITS = 40
"""Up to how many fixtures that is tried: beyond, the best found is given, and it is not called
proven."""


class Goal(StrEnum):
    """What a combination is for."""

    FEWEST = "fewest"
    FULL = "full"
    WITHIN = "within"


@dataclass(frozen=True, slots=True)
class Combination:
    """A mode for every fixture that has a choice, by id.

    ``universes`` is how many all of them take, laid out anew; ``full`` how many are in their
    fullest usable mode; ``worth`` the features of all. ``proven`` when no combination is better;
    ``fits`` False where it takes more universes than were allowed.
    """

    goal: Goal
    modes: dict[int, str]
    universes: int
    channels: int
    full: int
    worth: int
    proven: bool
    fits: bool = True


@once_a_show
def combine(show: Show, goal: Goal, *, within: int | None = None) -> Combination:
    """The best combination of modes for a goal, laid out anew on empty universes.

    ``FEWEST``: as few universes as possible with all that is wanted. ``FULL``: everything in its
    fullest mode. ``WITHIN``: the most features over all fixtures that ``within`` universes hold.
    Pins and the limits of address setters are left out of the sum. ``EditError`` where ``within``
    is missing or out of range.
    """
    if goal is Goal.WITHIN and not 1 <= (within or 0) <= MOST_UNIVERSES:
        raise EditError(f"Say how many universes there are. Use 1 to {MOST_UNIVERSES}.")
    units = _units(show)
    if goal is Goal.WITHIN:
        assert within is not None
        return _within(show, units, within)
    chosen = [unit.options[0] if goal is Goal.FEWEST else unit.fullest for unit in units]
    universes, proven = _universes_for(show, _parts(chosen))
    if goal is Goal.FEWEST and not _single(units):
        chosen, universes, proven = _fewer(show, units, chosen, universes)
    return _combination(goal, units, chosen, universes, proven)


def _parts(chosen: Sequence[Option]) -> list[int]:
    """The lengths of all runs of a choice."""
    return [part for option in chosen for part in option.parts]


def _single(units: Sequence[Unit]) -> bool:
    """Whether no mode has several runs: then the smallest ones fit wherever any others do. Several
    short runs may fit where one long run does not, although they take more channels."""
    return all(len(option.parts) <= 1 for unit in units for option in unit.options)


def _fewer(
    show: Show, units: Sequence[Unit], smallest: list[Option], universes: int
) -> tuple[list[Option], int, bool]:
    """The fewest universes in which any choice fits, where the smallest modes take so many; and
    whether that is proven."""
    sure = True
    for fewer in range(max(1, _least(show, _parts(smallest))), universes):
        found, complete = _first_fit(units, _ground(show, fewer))
        if found is not None:
            return found, fewer, sure
        sure = sure and complete
    return smallest, universes, sure


def _first_fit(units: Sequence[Unit], ground: _Ground) -> tuple[list[Option] | None, bool]:
    """A choice that fits, small modes first; None where none was found, and whether then surely
    none does."""
    least = [0] * (len(units) + 1)
    for place in range(len(units) - 1, -1, -1):
        least[place] = least[place + 1] + units[place].options[0].cost
    chosen: list[Option] = []
    leaves, sure = 0, True

    def go(place: int, cost: int) -> bool:
        nonlocal leaves, sure
        if cost + least[place] > ground.capacity:
            return False
        if place == len(units):
            leaves += 1
            packing = ground.pack(_parts(chosen))
            sure = sure and packing.certain
            return packing.bins is not None
        for option in units[place].options:
            if leaves >= SEARCH_LEAVES:
                sure = False
                return False
            chosen.append(option)
            if go(place + 1, cost + option.cost):
                return True
            chosen.pop()
        return False

    if least[0] > ground.capacity:
        return None, True
    if len(units) > SEARCH_UNITS:
        return None, False
    return (list(chosen), True) if go(0, 0) else (None, sure)


def _units(show: Show) -> list[Unit]:
    grouped: dict[Alike | int, list[Fixture]] = {}
    for fixture in show.fixtures:
        grouped.setdefault(alike(fixture) if fixture.share else fixture.id, []).append(fixture)
    known: dict[tuple[str, tuple[str, ...], int], Unit | None] = {}
    units = []
    each = wanted_of_each(show)
    for members in grouped.values():
        wanted = each[members[0].id]
        if len(members) > 1:
            wanted = _of_all([each[member.id] for member in members])
        asked = (members[0].profile, wanted.features, len(members))
        if asked not in known:
            known[asked] = _unit(show, members, wanted)
        if (unit := known[asked]) is not None:
            ids = tuple([member.id for member in members])
            units.append(Unit(ids, unit.options, unit.fullest))
    return units


def _unit(show: Show, members: Sequence[Fixture], wanted: Wanted) -> Unit | None:
    """Fixtures that move as one with all modes that they could take; None where there are none."""
    offers = offers_of(show, members[0], wanted)
    options = [_option(show, offer, len(members)) for offer in offers]
    if not options:
        return None
    by_cost = sorted(options, key=lambda option: (option.cost, max(option.parts, default=0)))
    return Unit(tuple(member.id for member in members), tuple(by_cost), options[-1])


def _of_all(asked: Sequence[Wanted]) -> Wanted:
    """What is asked of some that move as one."""
    return replace(
        asked[0],
        features=tuple(dict.fromkeys(feature for wanted in asked for feature in wanted.features)),
    )


def _option(show: Show, offer: Offer, members: int) -> Option:
    parts = tuple(part.footprint for part in offer.mode.parts if part.footprint)
    cost = sum(parts) if show.desk.page is None else len(parts)
    return Option(offer.mode.name, cost, parts, offer.worth * members, offer.mode.footprint)


@dataclass(frozen=True, slots=True)
class _Ground:
    """The empty universes that a combination is laid out on.

    ``bins`` are the lengths of their gaps. On a desk with pages each is a page, as far as it is
    free from its start, and takes one run: what a run costs is then a page, else its channels.
    """

    bins: tuple[int, ...]
    paged: bool

    @property
    def capacity(self) -> int:
        """The costs that it can hold in sum."""
        return len(self.bins) if self.paged else sum(self.bins)

    def cost(self, lengths: Sequence[int]) -> int:
        """What runs of these lengths cost in sum."""
        return len(lengths) if self.paged else sum(lengths)

    def pack(self, lengths: Sequence[int], *, quick: bool = False) -> Packing:
        """Whether the runs fit. One to a page that is settled by size alone."""
        if not self.paged:
            return pack(lengths, self.bins, budget=0) if quick else pack(lengths, self.bins)
        pages = sorted(self.bins, reverse=True)
        fits = len(lengths) <= len(pages) and all(map(le, sorted(lengths, reverse=True), pages))
        return Packing(() if fits else None)


def _ground(show: Show, universes: int) -> _Ground:
    """The first ``universes`` universes, were they empty."""
    found = [length for number in range(1, universes + 1) for length in _rooms_in(show, number)]
    return _Ground(tuple(found), show.desk.page is not None)


def _rooms_in(show: Show, universe: int) -> list[int]:
    free = EVERY_SLOT & ~reserved_bits(show, universe) & bits_of(1, show.desk.highest)
    page = show.desk.page
    return [gap.length for gap in gaps(free)] if page is None else page_rooms(free, page)


def _least(show: Show, lengths: Sequence[int]) -> int:
    """The fewest universes that have room for these runs in sum."""
    universes, room, cost = 0, 0, _ground(show, 0).cost(lengths)
    while room < cost and universes < MOST_UNIVERSES:
        universes += 1
        room += _Ground(tuple(_rooms_in(show, universes)), show.desk.page is not None).capacity
    return universes


def universes_needed(show: Show) -> int:
    """How many universes the show's fixtures take in their modes as planned, laid out anew on empty
    universes."""
    groups = {alike(fixture): fixture for fixture in show.fixtures if fixture.share}
    kinds = Counter([(one.profile, one.mode) for one in show.fixtures if not one.share])
    kinds.update((one.profile, one.mode) for one in groups.values())
    lengths: list[int] = []
    for kind, count in kinds.items():
        mode = show.modes.get(kind)
        for part in mode.parts if mode else ():
            lengths += [part.footprint] * (count if part.footprint else 0)
    return _universes_for(show, lengths)[0] if lengths else 0


def _universes_for(show: Show, lengths: Sequence[int]) -> tuple[int, bool]:
    """How many universes these runs take, and whether fewer are proven not to do."""
    universes, sure = max(1, _least(show, lengths)), True
    counts = Counter(lengths)
    while universes < MOST_UNIVERSES:
        ground = _ground(show, universes)
        if not ground.paged and packs_quickly(counts, ground.bins):
            return universes, sure
        found = ground.pack(lengths)
        if found.bins is not None:
            return universes, sure
        sure = sure and found.certain
        universes += 1
    return universes, False


def _combination(
    goal: Goal,
    units: Sequence[Unit],
    chosen: Sequence[Option],
    universes: int,
    proven: bool,
    *,
    fits: bool = True,
) -> Combination:
    return Combination(
        goal,
        {
            member: option.name
            for unit, option in zip(units, chosen, strict=True)
            for member in unit.members
        },
        universes,
        sum(option.channels for option in chosen),
        sum(len(u.members) for u, option in zip(units, chosen, strict=True) if option is u.fullest),
        sum(option.worth for option in chosen),
        proven,
        fits,
    )


def _within(show: Show, units: Sequence[Unit], within: int) -> Combination:
    ground = _ground(show, within)
    capacity = ground.capacity

    def packs(chosen: Sequence[Option]) -> bool:
        return ground.pack(_parts(chosen)).bins is not None

    best = [unit.options[0] for unit in units]
    if not packs(best):
        fitting, complete = (None, True) if _single(units) else _first_fit(units, ground)
        if fitting is None:
            universes, proven = _universes_for(show, _parts(best))
            if not _single(units):
                best, universes, proven = _fewer(show, units, best, universes)
            return _combination(
                Goal.WITHIN, units, best, universes, proven and complete, fits=False
            )
        best = fitting
    bound = best_choice(units, capacity)
    assert bound is not None
    cut, tried = 0, bound
    while not packs(tried.chosen):
        cut = max(cut * 2, capacity - sum(option.cost for option in tried.chosen) + 1)
        lower = best_choice(units, capacity - cut)
        if lower is None:
            break
        tried = lower
    else:
        best = tried.chosen
    if sum(option.worth for option in best) == bound.worth:
        proven = bound.proven
    else:
        best, proven = _search_all(units, ground, best)
    return _combination(Goal.WITHIN, units, best, _taken_by(show, best, within), proven)


def _taken_by(show: Show, chosen: Sequence[Option], within: int) -> int:
    """How many universes a choice that fits into ``within`` takes, by quick packing and halving."""
    lengths = _parts(chosen)
    low, high = max(1, _least(show, lengths)), within
    while low < high:
        middle = (low + high) // 2
        if _ground(show, middle).pack(lengths, quick=True).bins is not None:
            high = middle
        else:
            low = middle + 1
    return high


def _search_all(
    units: Sequence[Unit], ground: _Ground, best: list[Option]
) -> tuple[list[Option], bool]:
    """Combinations by the sum that they can still reach, each packed when complete: for sums that
    do not pack.

    Gives the best found, and whether the search was complete.
    """
    capacity = ground.capacity
    rest = [0] * (len(units) + 1)
    least = [0] * (len(units) + 1)
    for place in range(len(units) - 1, -1, -1):
        rest[place] = rest[place + 1] + max(option.worth for option in units[place].options)
        least[place] = least[place + 1] + units[place].options[0].cost
    top = sum(option.worth for option in best)
    leaves, steps, sure = 0, 0, True
    chosen: list[Option] = []

    def go(place: int, cost: int, worth: int) -> bool:
        nonlocal best, top, leaves, steps, sure
        steps += 1
        if cost + least[place] > capacity or worth + rest[place] <= top:
            return True
        if leaves > SEARCH_LEAVES or steps > 100 * SEARCH_LEAVES:
            return False
        if place == len(units):
            leaves += 1
            found = ground.pack(_parts(chosen))
            sure = sure and found.certain
            if found.bins is not None:
                best, top = list(chosen), worth
            return True
        for option in sorted(units[place].options, key=lambda option: -option.worth):
            chosen.append(option)
            complete = go(place + 1, cost + option.cost, worth + option.worth)
            chosen.pop()
            if not complete:
                return False
        return True

    complete = len(units) <= SEARCH_UNITS and go(0, 0, 0)
    return best, complete and sure
