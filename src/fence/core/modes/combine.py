"""Which mode for which fixture: what each gives of what the show needs, and the best combination for the whole rig.

A combination is a knapsack: every fixture takes one of its modes, all together must fit into the universes. The best
sum is found exactly over the total of channels, by dynamic programming with a Lagrangian bound; that the runs then
really fit side by side is shown by packing them.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

from fence.core.addressing.packing import pack
from fence.core.checks.desk import matches_layout
from fence.core.words.address import EVERY_SLOT, SLOTS
from fence.core.words.errors import EditError
from fence.core.words.needs import NO_PROGRAMS, ModeSchool, Scope, features_of
from fence.core.words.profile import Mode
from fence.core.words.show import Fixture, Show
from fence.core.words.space import bits_of, every, gaps, reserved_bits, starts

MOST_UNIVERSES = 512
"""Universes that a combination may be spread over."""
SEARCH_LEAVES = 400
"""Combinations whose packing is tried one by one, where the best sum does not fit side by side."""
NARROW = 60
"""States that the narrow pass of the knapsack keeps."""
MOST_STATES = 150_000
"""States after which the full pass gives up; what was found by then is not called proven."""
SEARCH_UNITS = 40
"""Up to how many fixtures that is tried: beyond, the best found is given, and it is not called proven."""


# ---- what is needed, and which modes have it


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is asked of a fixture: all features that any need names for it, and the school that is nearest to it."""

    features: tuple[str, ...]
    school: ModeSchool


def wanted_of(show: Show, fixture: Fixture) -> Wanted:
    """What the show's needs ask of a fixture; lean where nothing else is said."""
    keys = {
        Scope.SHOW: "",
        Scope.POSITION: fixture.position,
        Scope.TYPE: fixture.profile,
        Scope.GROUP: fixture.share,
        Scope.FIXTURE: str(fixture.id),
    }
    features: dict[str, None] = {}
    school = ModeSchool.LEAN
    for scope, key in keys.items():
        for need in show.needs:
            if need.scope is scope and need.key == key and (key or scope is Scope.SHOW):
                features.update(dict.fromkeys(need.features))
                school = need.school or school
    return Wanted(tuple(features), school)


@dataclass(frozen=True, slots=True)
class Offer:
    """A mode that a fixture could take. ``lacks`` names what is wanted and not there; ``worth`` counts features."""

    mode: Mode
    features: frozenset[str]
    lacks: tuple[str, ...]
    worth: int


@lru_cache(maxsize=4096)
def _features(mode: Mode) -> frozenset[str]:
    return features_of(mode)


def offers_of(show: Show, fixture: Fixture, wanted: Wanted | None = None) -> tuple[Offer, ...]:
    """The modes worth considering, smallest first: those that the desk can use and that lack the least.

    Empty for a fixture whose chart is missing, or which has no mode that the desk can use.
    """
    profile = show.profile_of(fixture)
    if profile is None:
        return ()
    wanted = wanted or wanted_of(show, fixture)
    usable = [mode for mode in profile.modes if _usable(show, mode)]
    lacking = {mode.name: tuple(f for f in wanted.features if f not in _features(mode)) for mode in usable}
    least = min(map(len, lacking.values()), default=0)
    best = sorted((mode for mode in usable if len(lacking[mode.name]) == least), key=lambda mode: mode.footprint)
    offers = []
    for rank, mode in enumerate(best):
        features = _features(mode)
        # the fullest mode is worth one more, so that it is preferred where features do not tell
        worth = (len(features) if features else rank) + (mode is best[-1])
        offers.append(Offer(mode, features, lacking[mode.name], worth))
    return tuple(offers)


def _usable(show: Show, mode: Mode) -> bool:
    desk = show.desk
    if any(part.footprint > min(SLOTS, desk.highest) for part in mode.parts):
        return False
    if desk.page is not None and any(part.footprint > desk.page for part in mode.parts):
        return False
    return not (desk.layout and mode.footprint) or matches_layout(mode, desk.layout)


@dataclass(frozen=True, slots=True)
class Recommendation:
    """The mode that a fixture should take under its school, and why. ``mode`` is None where no mode can be used."""

    fixture: int
    now: str
    mode: str | None
    wanted: Wanted
    reasons: tuple[str, ...]


def recommend(show: Show, fixture: Fixture) -> Recommendation:
    """The smallest mode that has all that is wanted (lean), or the largest (full)."""
    wanted = wanted_of(show, fixture)
    offers = offers_of(show, fixture, wanted)
    if not offers:
        profile = show.profile_of(fixture)
        desk = show.desk.name or "the desk"
        why = f"No mode of {profile.title} can be used on {desk}." if profile else "Its chart is missing."
        return Recommendation(fixture.id, fixture.mode, None, wanted, (why,))
    chosen = offers[0] if wanted.school is ModeSchool.LEAN else offers[-1]
    return Recommendation(fixture.id, fixture.mode, chosen.mode.name, wanted, _reasons(show, fixture, chosen, offers))


def _reasons(show: Show, fixture: Fixture, chosen: Offer, offers: Sequence[Offer]) -> tuple[str, ...]:
    wanted = wanted_of(show, fixture)
    reasons = []
    held = [feature for feature in wanted.features if feature not in chosen.lacks]
    if held:
        reasons.append(f"Has {', '.join(held)}.")
    if chosen.lacks:
        reasons.append(f"No usable mode has {', '.join(chosen.lacks)} as well.")
    if not wanted.features:
        reasons.append("Nothing is asked of it yet.")
    if len(offers) > 1:
        order = "fewest" if wanted.school is ModeSchool.LEAN else "most"
        reasons.append(f"Of {len(offers)} modes that do it has the {order} channels, {chosen.mode.footprint}.")
    now = show.mode_of(fixture)
    if now is not None and now.name != chosen.mode.name:
        gone = sorted(_features(now) - chosen.features - {NO_PROGRAMS})
        gained = sorted(chosen.features - _features(now) - {NO_PROGRAMS})
        if gone:
            reasons.append(f"Gives up {', '.join(gone)}.")
        if gained:
            reasons.append(f"Gains {', '.join(gained)}.")
    return tuple(reasons)


# ---- combinations for the whole rig


class Goal(StrEnum):
    """What a combination is for."""

    FEWEST = "fewest"
    FULL = "full"
    WITHIN = "within"


@dataclass(frozen=True, slots=True)
class Combination:
    """A mode for every fixture that has a choice, by id.

    ``universes`` is how many all of them take, laid out anew; ``full`` how many are in their fullest usable mode;
    ``worth`` the features of all. ``proven`` when no combination is better; ``fits`` False where it takes more
    universes than were allowed.
    """

    goal: Goal
    modes: dict[int, str]
    universes: int
    channels: int
    full: int
    worth: int
    proven: bool
    fits: bool = True


@dataclass(frozen=True, slots=True)
class _Option:
    """A mode as the knapsack sees it: what it costs in all and part by part, and what it is worth."""

    name: str
    cost: int
    parts: tuple[int, ...]
    worth: int
    channels: int


@dataclass(frozen=True, slots=True)
class _Unit:
    """Fixtures that take one mode together: one, or all alike of a sharing group. Options by rising cost."""

    members: tuple[int, ...]
    options: tuple[_Option, ...]


def combine(show: Show, goal: Goal, *, within: int | None = None, ids: Collection[int] | None = None) -> Combination:
    """The best combination of modes for a goal, laid out anew on empty universes.

    ``FEWEST``: as few universes as possible with all that is wanted. ``FULL``: everything in its fullest mode.
    ``WITHIN``: the most features over all fixtures that ``within`` universes hold. Pins and the limits of address
    setters are left out of the sum. ``EditError`` where ``within`` is missing or out of range.
    """
    if goal is Goal.WITHIN and not 1 <= (within or 0) <= MOST_UNIVERSES:
        raise EditError(f"Say how many universes there are: accepted are 1 to {MOST_UNIVERSES}.")
    units = _units(show, ids)
    if goal is Goal.WITHIN:
        assert within is not None
        return _within(show, units, within)
    chosen = [unit.options[0 if goal is Goal.FEWEST else -1] for unit in units]
    universes, proven = _universes_for(show, [part for option in chosen for part in option.parts])
    # a mode in several parts may pack better although it is larger: then fewest is only proven by the sum
    single = all(len(option.parts) <= 1 for unit in units for option in unit.options)
    if goal is Goal.FEWEST and not single:
        proven = proven and universes <= _least(show, sum(option.cost for option in chosen))
    return _combination(goal, units, chosen, universes, proven)


def _units(show: Show, ids: Collection[int] | None) -> list[_Unit]:
    grouped: dict[object, list[Fixture]] = {}
    for fixture in show.fixtures:
        if ids is None or fixture.id in ids:
            alike = (fixture.share, fixture.profile, fixture.mode) if fixture.share else fixture.id
            grouped.setdefault(alike, []).append(fixture)
    known: dict[tuple[str, tuple[str, ...]], tuple[Offer, ...]] = {}
    units = []
    for members in grouped.values():
        wanted = _wanted_of_all(show, members)
        asked = (members[0].profile, wanted.features)
        if asked not in known:
            known[asked] = offers_of(show, members[0], wanted)
        options = tuple(_option(show, offer, len(members)) for offer in known[asked])
        if options:
            units.append(_Unit(tuple(member.id for member in members), options))
    return units


def _wanted_of_all(show: Show, members: Sequence[Fixture]) -> Wanted:
    asked = [wanted_of(show, member) for member in members]
    return replace(asked[0], features=tuple(dict.fromkeys(feature for wanted in asked for feature in wanted.features)))


def _option(show: Show, offer: Offer, members: int) -> _Option:
    page = show.desk.page
    parts = tuple(page or part.footprint for part in offer.mode.parts if part.footprint)
    return _Option(offer.mode.name, sum(parts), parts, offer.worth * members, offer.mode.footprint)


def _bins(show: Show, universes: int) -> list[int]:
    """The lengths of the gaps of the first ``universes`` universes, were they empty; whole pages on a paged desk."""
    page, found = show.desk.page, []
    for number in range(1, universes + 1):
        free = EVERY_SLOT & ~reserved_bits(show, number) & bits_of(1, show.desk.highest)
        if page is None:
            found += [gap.length for gap in gaps(free)]
        else:
            found.append(page * (starts(free, page) & every(page)).bit_count())
    return found


def _least(show: Show, total: int) -> int:
    """The fewest universes that have room for ``total`` slots in sum."""
    universes, room = 0, 0
    while room < total and universes < MOST_UNIVERSES:
        universes += 1
        room = sum(_bins(show, universes))
    return universes


def universes_needed(show: Show) -> int:
    """How many universes the show's fixtures take in their modes as planned, laid out anew on empty universes."""
    lengths: list[int] = []
    shared = set()
    for fixture in show.fixtures:
        key = (fixture.share, fixture.profile, fixture.mode)
        if not fixture.share or key not in shared:
            lengths += [show.desk.page or footprint for footprint in show.footprints_of(fixture) if footprint]
            shared.add(key)
    return _universes_for(show, lengths)[0] if lengths else 0


def _universes_for(show: Show, lengths: Sequence[int]) -> tuple[int, bool]:
    """How many universes these runs take, and whether fewer are proven not to do."""
    universes, sure = max(1, _least(show, sum(lengths))), True
    while universes < MOST_UNIVERSES:
        found = pack(lengths, _bins(show, universes))
        if found.bins is not None:
            return universes, sure
        sure = sure and found.certain
        universes += 1
    return universes, False


def _combination(
    goal: Goal, units: Sequence[_Unit], chosen: Sequence[_Option], universes: int, proven: bool, *, fits: bool = True
) -> Combination:
    return Combination(
        goal,
        {member: option.name for unit, option in zip(units, chosen, strict=True) for member in unit.members},
        universes,
        sum(option.channels for option in chosen),
        sum(len(u.members) for u, option in zip(units, chosen, strict=True) if option is u.options[-1]),
        sum(option.worth for option in chosen),
        proven,
        fits,
    )


# ---- the knapsack


def _within(show: Show, units: Sequence[_Unit], within: int) -> Combination:
    bins = _bins(show, within)
    capacity = sum(bins)

    def packs(chosen: Sequence[_Option]) -> bool:
        return pack([part for option in chosen for part in option.parts], bins).bins is not None

    smallest = [unit.options[0] for unit in units]
    if not packs(smallest):
        universes, proven = _universes_for(show, [part for option in smallest for part in option.parts])
        return _combination(Goal.WITHIN, units, smallest, universes, proven, fits=False)
    bound = best_choice(units, capacity)
    assert bound is not None
    best, cut, tried = smallest, 0, bound
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
        best, proven = _search_all(units, capacity, bins, best)
    return _combination(Goal.WITHIN, units, best, _taken_by(show, best, within), proven)


def _taken_by(show: Show, chosen: Sequence[_Option], within: int) -> int:
    """How many universes a choice that fits into ``within`` takes, by quick packing and halving."""
    lengths = [part for option in chosen for part in option.parts]
    low, high = max(1, _least(show, sum(lengths))), within
    while low < high:
        middle = (low + high) // 2
        if pack(lengths, _bins(show, middle), budget=0).bins is not None:
            high = middle
        else:
            low = middle + 1
    return high


@dataclass(frozen=True, slots=True)
class _Best:
    """A choice of options, its worth, and whether none is worth more."""

    chosen: list[_Option]
    worth: int
    proven: bool


def best_choice(units: Sequence[_Unit], capacity: int) -> _Best | None:
    """One option for each unit with the largest worth whose costs sum to ``capacity`` or less; None where none does.

    Dynamic programming over the cost in sum. A state is dropped when even the Lagrangian bound of what is left (with
    the multiplier at which the linear relaxation breaks) does not lead beyond the best solution known. A narrow pass
    that keeps only the most promising states comes first: what it finds makes the full one short, or needless.
    """
    if sum(unit.options[0].cost for unit in units) > capacity:
        return None
    relaxed = _relaxed(units, capacity)
    best = _Best(relaxed.chosen, sum(option.worth for option in relaxed.chosen), proven=False)
    for width, most in ((NARROW, None), (None, MOST_STATES)):
        best = _pass(units, capacity, relaxed, best, width=width, most=most)
        if best.proven:
            break
    return best


_Way = tuple["_Option", "_Way | None"]


def _pass(
    units: Sequence[_Unit], capacity: int, relaxed: _Relaxed, best: _Best, *, width: int | None, most: int | None
) -> _Best:
    """One sweep over the units, unit by unit. Proven unless states were cut off by ``width`` or ``most``."""
    up, down = relaxed.worth_per, relaxed.cost_per
    rest, least = _still_to_come(units, up, down)
    states: list[tuple[int, int, _Way | None]] = [(0, 0, None)]
    cut, seen = False, 0
    for place, unit in enumerate(units):
        grown: dict[int, tuple[int, _Way]] = {}
        room, ahead = capacity - least[place + 1], rest[place + 1]
        for cost, worth, way in states:
            for option in unit.options:
                total, value = cost + option.cost, worth + option.worth
                if total > room or (value * down + ahead + (capacity - total) * up) // down <= best.worth:
                    continue
                held = grown.get(total)
                if held is None or value > held[0]:
                    grown[total] = (value, (option, way))
        states, top = [], -1
        for total in sorted(grown):
            value, path = grown[total]
            if value > top:
                states.append((total, value, path))
                top = value
        seen += len(states)
        if most is not None and seen > most:
            return best
        if width is not None and len(states) > width:
            cut = True
            states.sort(key=lambda state: state[0] * up - state[1] * down)
            states = sorted(states[:width], key=lambda state: state[0])
    _, worth, way = max(states, key=lambda state: state[1], default=(0, 0, None))
    if worth <= best.worth:
        return replace(best, proven=not cut)
    chosen: list[_Option] = []
    while way is not None:
        option, way = way
        chosen.append(option)
    reached = worth >= (rest[0] + capacity * up) // down
    return _Best(chosen[::-1], worth, proven=reached or not cut)


def _still_to_come(units: Sequence[_Unit], up: int, down: int) -> tuple[list[int], list[int]]:
    """From each unit on: the most that the rest can add to the bound, and the least that it can cost."""
    rest, least = [0] * (len(units) + 1), [0] * (len(units) + 1)
    for place in range(len(units) - 1, -1, -1):
        options = units[place].options
        rest[place] = rest[place + 1] + max(option.worth * down - option.cost * up for option in options)
        least[place] = least[place + 1] + min(option.cost for option in options)
    return rest, least


@dataclass(frozen=True, slots=True)
class _Relaxed:
    """A good choice, and worth over cost at the point where the linear relaxation runs out of room."""

    chosen: list[_Option]
    worth_per: int
    cost_per: int


def _relaxed(units: Sequence[_Unit], capacity: int) -> _Relaxed:
    """Take the steps up in order of worth per cost; the first that does not fit gives the multiplier."""
    steps = []
    for place, unit in enumerate(units):
        hull = _hull(unit.options)
        for low, high in itertools.pairwise(hull):
            steps.append(((high.worth - low.worth) / max(high.cost - low.cost, 0.5), place, low, high))
    steps.sort(key=lambda step: -step[0])
    at = [_hull(unit.options)[0] for unit in units]
    left = capacity - sum(option.cost for option in at)
    multiplier: tuple[int, int] | None = None
    for _, place, low, high in steps:
        if at[place] is not low:
            continue
        if high.cost - low.cost <= left:
            at[place] = high
            left -= high.cost - low.cost
        elif multiplier is None:
            multiplier = (high.worth - low.worth, high.cost - low.cost)
    up, down = multiplier or (0, 1)
    return _Relaxed(at, up, down)


def _hull(options: Sequence[_Option]) -> list[_Option]:
    """The options that the linear relaxation can stop at: cheapest first, each step of less worth per cost."""
    ordered = sorted(options, key=lambda option: (option.cost, -option.worth))
    hull: list[_Option] = []
    for option in ordered:
        if hull and option.worth <= hull[-1].worth:
            continue
        while len(hull) > 1:
            a, b = hull[-2], hull[-1]
            if (b.worth - a.worth) * (option.cost - b.cost) <= (option.worth - b.worth) * (b.cost - a.cost):
                hull.pop()
            else:
                break
        hull.append(option)
    return hull


def _search_all(
    units: Sequence[_Unit], capacity: int, bins: Sequence[int], best: list[_Option]
) -> tuple[list[_Option], bool]:
    """Combinations by the sum that they can still reach, each packed when complete: for sums that do not pack.

    Gives the best found, and whether the search was complete.
    """
    rest = [0] * (len(units) + 1)
    least = [0] * (len(units) + 1)
    for place in range(len(units) - 1, -1, -1):
        rest[place] = rest[place + 1] + max(option.worth for option in units[place].options)
        least[place] = least[place + 1] + units[place].options[0].cost
    top = sum(option.worth for option in best)
    leaves, steps, sure = 0, 0, True
    chosen: list[_Option] = []

    def go(place: int, cost: int, worth: int) -> bool:
        nonlocal best, top, leaves, steps, sure
        steps += 1
        if cost + least[place] > capacity or worth + rest[place] <= top:
            return True
        if leaves > SEARCH_LEAVES or steps > 100 * SEARCH_LEAVES:
            return False
        if place == len(units):
            leaves += 1
            found = pack([part for option in chosen for part in option.parts], bins)
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
