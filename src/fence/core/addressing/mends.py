"""Computed ways out of a finding. A mend is an edit with a sentence; nothing is changed until it is
applied."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import chain
from typing import TYPE_CHECKING, TypeAlias

from fence.core import edits
from fence.core.checks import check
from fence.core.checks.desk import fits_page, matches_layout
from fence.core.checks.finding import Finding, Severity, news
from fence.core.model.address import Address
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.profile import Mode, Setter
from fence.core.model.sharing import holder_of, movers_in
from fence.core.model.show import PlacedRun, Show
from fence.core.model.space import desk_starts, first_from, free_bits, nearest, other_parts
from fence.core.model.standing import as_planned
from fence.core.model.text import LONGEST_TEXT, counted

if TYPE_CHECKING:  # a rig without lines and nodes, such as one in a table, does without these
    from fence.core.lines.line_mends import LineStep
    from fence.core.network.node_mends import BoxStep


@dataclass(frozen=True, slots=True)
class Move:
    """Put one part of a fixture (and of all that share with it) at an address."""

    fixture: int
    part: int
    to: Address


@dataclass(frozen=True, slots=True)
class Place:
    """Give addresses to parts of a fixture (and of all that share with it), each as its index and
    the address."""

    fixture: int
    at: tuple[tuple[int, Address], ...]


@dataclass(frozen=True, slots=True)
class Share:
    """Declare that fixtures share the address of the first that has one, as a group of that name or
    a new one."""

    fixtures: tuple[int, ...]
    group: str = ""


@dataclass(frozen=True, slots=True)
class ChangeMode:
    """Put a fixture into another mode."""

    fixture: int
    mode: str


@dataclass(frozen=True, slots=True)
class Renumber:
    """Give a fixture another number."""

    fixture: int
    number: int


@dataclass(frozen=True, slots=True)
class Relabel:
    """Give a fixture another label."""

    fixture: int
    label: str


@dataclass(frozen=True, slots=True)
class Unpin:
    """Take the pin out of a fixture, so that it may be moved."""

    fixture: int


Action: TypeAlias = (
    "Move | Place | Share | ChangeMode | Renumber | Relabel | Unpin | LineStep | BoxStep"
)


@dataclass(frozen=True, slots=True)
class Mend:
    """A way out: what it does, in words, why this one, and the action itself."""

    text: str
    why: str
    action: Action


def apply_mend(show: Show, mend: Mend) -> Show:
    """The show after the mend. Raises ``EditError`` where an edit would."""
    match mend.action:
        case Move(fixture, part, to):
            return edits.place(show, fixture, to, part=part)
        case Place(fixture, at):
            for part, to in at:
                show = edits.place(show, fixture, to, part=part)
            return show
        case Share(fixtures, group):
            return edits.share(show, fixtures, group)
        case ChangeMode(fixture, mode):
            return edits.change_mode(show, [fixture], mode)
        case Renumber(fixture, number):
            return edits.renumber(show, [fixture], number)
        case Relabel(fixture, label):
            return edits.relabel(show, [fixture], label)
        case Unpin(fixture):
            return edits.unpin(show, [fixture])
        case step:
            from fence.core.lines.line_mends import LineStep, take
            from fence.core.network.node_mends import take_step

            return take(show, step) if isinstance(step, LineStep) else take_step(show, step)


def mends_for(show: Show, finding: Finding) -> list[Mend]:
    """The ways out of a finding, the least disturbing first; empty where a person must decide."""
    if finding.box is not None:
        from fence.core.network.node_mends import box_mends

        return [Mend(way.text, way.why, way.step) for way in box_mends(show, finding)]
    if finding.line is not None:
        from fence.core.lines.line_mends import line_mends

        return [Mend(way.text, way.why, way.step) for way in line_mends(show, finding)]
    fixtures = [show.fixture_by_id[i] for i in finding.fixtures if i in show.fixture_by_id]
    ways = _WAYS.get(finding.rule)
    found = ways(show, finding, fixtures) if ways else ()
    mends = list({mend.text: mend for mend in found}.values())
    if all(len(fixture.patch) == 1 and not fixture.share for fixture in fixtures):
        return mends  # computed from free slots, so they hold
    return [mend for mend in mends if _holds(show, finding, mend)]


def _to_where_it_fits(show: Show, finding: Finding, fixtures: list[Fixture]) -> Iterator[Mend]:
    """Moves of those that stand where they cannot, each with all who share its address."""
    for members in list(movers_in(fixtures).values())[:8]:
        yield from _moves(show, members[0], finding.universe)


def _places_for_all(show: Show, _finding: Finding, fixtures: list[Fixture]) -> Iterator[Mend]:
    for fixture in fixtures:
        yield from _first_places(show, fixture)


def _holds(show: Show, finding: Finding, mend: Mend) -> bool:
    """Whether a mend can be taken, ends its finding, and makes no stop of its own.

    With several parts or sharers a gap that is free for one is not always free for all. Only the
    fixtures near those that move are looked at. A change of mode may make new clashes: its own
    preview tells them.
    """
    try:
        after = apply_mend(show, mend)
    except FenceError:
        return False
    moved = {
        new.id
        for old, new in zip(show.fixtures, after.fixtures, strict=True)
        if old is not new and old != new
    }
    moved |= set(finding.fixtures)
    universes = {
        p.universe for s in (show, after) for i in moved for p in s.fixture(i).patch if p.universe
    }
    near = {
        f.id for s in (show, after) for u in universes for f in s.fixtures_in.get(u, ())
    } | moved
    near |= {sharer.id for i in near for sharer in show.sharers_of(show.fixture(i))}
    before, then = (list(check(_only(s, near))) for s in (show, after))
    if isinstance(mend.action, Unpin):
        return True
    if finding.key in {found.key for found in then}:
        return False
    return isinstance(mend.action, ChangeMode) or not any(
        f.severity is Severity.STOP for f in news(before, then)
    )


def _only(show: Show, ids: set[int]) -> Show:
    return replace(show, fixtures=tuple(fixture for fixture in show.fixtures if fixture.id in ids))


def _ways_out_of_overlap(show: Show, finding: Finding, fixtures: list[Fixture]) -> Iterator[Mend]:
    movers = movers_in(fixtures)
    leads = [members[0] for members in movers.values()]
    pinned = [fixture for fixture in leads if holder_of(show, fixture)]
    for fixture in sorted(leads, key=lambda fixture: _innocence(show, fixture)):
        if fixture not in pinned or len(pinned) == len(leads):
            yield from _moves(show, fixture, finding.universe)
    if len(leads) == 2:
        yield from _sharing(show, *leads)


def _sharing(show: Show, earlier: Fixture, later: Fixture) -> Iterator[Mend]:
    """Declare two that are alike as shared, where that is meant: at the address of the group, else
    of the earlier."""
    stays, joins = (later, earlier) if later.share else (earlier, later)
    if (
        joins.share
        or (joins.profile, joins.mode) != (stays.profile, stays.mode)
        or stays.start is None
    ):
        return
    sharers = show.sharers_of(stays)
    if joins.patch != stays.patch:
        together = {joins.id, *(sharer.id for sharer in sharers)}
        if joins.pinned or not _room_at(show, stays, together):
            return
    why = "Both will do the same and cannot be controlled apart."
    if stays.share:
        text = (
            f"Let {joins.label} share {stays.planned_at} with "
            f"{counted(len(sharers), 'fixture')} of {stays.share}"
        )
        why = "All of them will do the same and cannot be controlled apart."
    else:
        text = f"Declare {stays.label} and {joins.label} as shared at {stays.planned_at}"
    yield Mend(text, why, Share((stays.id, joins.id), stays.share))


def _innocence(show: Show, fixture: Fixture) -> tuple[bool, bool, int]:
    """Who is rather left alone: whoever is set at the fixture already, hangs where it is hard to
    reach, came first."""
    return as_planned(show, fixture), fixture.position in show.hard_positions, -fixture.id


def _room_at(show: Show, fixture: Fixture, without: set[int]) -> bool:
    """Whether another one could stand where a fixture stands, but for those in ``without``: free,
    settable, sent."""
    setter = _setter(show, fixture)
    for placed in show.runs_of(fixture):
        run = placed.run
        fits = desk_starts(
            show, free_bits(show, run.universe, without=without), run.length, setter=setter
        )
        if run.universe > show.desk.last_universe or not fits >> (run.first - 1) & 1:
            return False
    return True


def _moves(show: Show, fixture: Fixture, universe: int | None) -> Iterator[Mend]:
    """Nearest gap in this universe, nearest gap after, first gap in the next universe with room."""
    sharers = show.sharers_of(fixture)
    if universe is None:
        return
    if holder := holder_of(show, fixture):
        why = (
            f"{holder.label} is pinned at {holder.planned_at}, so it is not moved. Without the "
            "pin it can be mended."
        )
        yield Mend(f"Take the pin out of {holder.label}", why, Unpin(holder.id))
        return
    ids = {sharer.id for sharer in sharers}
    for placed in show.runs_of(fixture):
        if placed.run.universe == universe:
            yield from _moves_of_part(show, placed, ids)


def _moves_of_part(show: Show, placed: PlacedRun, ids: set[int]) -> Iterator[Mend]:
    fixture, run = placed.fixture, placed.run
    length, universe = run.length, run.universe
    free = free_bits(show, universe, without=ids) & ~other_parts(
        show, fixture, placed.part, universe
    )
    fits = desk_starts(show, free, length, setter=_setter(show, fixture))
    group = f" and {len(ids) - 1} sharing with it" if len(ids) > 1 else ""
    who = f"{fixture.label}{group}"

    def move(slot: int, why: str, to_universe: int = universe) -> Mend:
        target = Address(to_universe, slot)
        where = f"{slot}" if to_universe == universe else f"{target}"
        return Mend(f"Move {who} to {where}", why, Move(fixture.id, placed.part, target))

    if universe <= show.desk.last_universe:
        near, after = nearest(fits, run.first), first_from(fits, run.first)
        if near and near != after:
            yield move(near, f"The nearest gap of {length} in U{universe} begins at {near}.")
        if after:
            yield move(after, f"The first gap of {length} after {run.first} begins at {after}.")
    if elsewhere := next_universe_with_room(show, universe, length, fixture):
        why = f"U{elsewhere.universe} is the next universe with a gap of {length}."
        yield move(elsewhere.slot, why, elsewhere.universe)


def first_gap(show: Show, universe: int, length: int, setter: Setter | None) -> int | None:
    """Where a run of ``length`` goes first in a universe, moving nobody; None where nowhere. Asked
    for every clash of a rig, it is found once."""
    known, free = _first_gaps(show), _free_in(show)
    key = (universe, length, setter.settable if setter else None)
    if key not in known:
        if universe not in free:
            free[universe] = free_bits(show, universe)
        known[key] = first_from(desk_starts(show, free[universe], length, setter=setter))
    return known[key]


@once_a_show
def _first_gaps(show: Show) -> dict[tuple[int, int, tuple[int, int] | None], int | None]:
    """What ``first_gap`` has found so far."""
    return {}


@once_a_show
def _free_in(show: Show) -> dict[int, int]:
    """The free slots of the universes in which ``first_gap`` has looked so far."""
    return {}


def next_universe_with_room(
    show: Show, universe: int, length: int, fixture: Fixture
) -> Address | None:
    """The first gap of ``length`` in the universes after ``universe``, then in those before it.

    Where none has room, slot 1 (or the lowest settable one) of a new universe, if the desk sends
    one more.
    """
    numbers = show.universe_numbers
    limit = show.desk.last_universe
    setter = _setter(show, fixture)
    here = bisect_right(numbers, universe)
    for place in chain(range(here, len(numbers)), range(here)):
        number = numbers[place]
        if number > limit or number == universe:
            continue
        slot = first_gap(show, number, length, setter)
        if slot is not None:
            return Address(number, slot)
    fresh = (numbers[-1] if numbers else 0) + 1
    lowest = (
        first_from(desk_starts(show, free_bits(show, fresh), length, setter=setter))
        if length
        else None
    )
    return Address(fresh, lowest) if fresh <= limit and lowest else None


def _setter(show: Show, fixture: Fixture) -> Setter | None:
    profile = show.profile_of(fixture)
    return profile.setter if profile else None


def _first_places(show: Show, fixture: Fixture) -> Iterator[Mend]:
    sharers = show.sharers_of(fixture)
    lead = next((s for s in sharers if s.id != fixture.id and _has_its_place(show, s)), None)
    if lead is not None:
        yield from _join(show, lead, fixture)
        return
    alike = all(
        (sharer.profile, sharer.mode) == (fixture.profile, fixture.mode) for sharer in sharers
    )
    if holder_of(show, fixture) is not None or not alike:
        return
    places = _places_for(show, fixture)
    if places:
        group = f" and {len(sharers) - 1} sharing with it" if len(sharers) > 1 else ""
        where = " + ".join(str(address) for _, address in places)
        yield Mend(
            f"Put {fixture.label}{group} at {where}",
            f"The first gap that is large enough begins at {where}.",
            Place(fixture.id, places),
        )


def _has_its_place(show: Show, fixture: Fixture) -> bool:
    """Whether each part with channels has a start."""
    parts = list(zip(show.footprints_of(fixture), fixture.patch, strict=False))
    return any(footprint for footprint, _ in parts) and all(
        p.slot for footprint, p in parts if footprint
    )


def _places_for(show: Show, fixture: Fixture) -> tuple[tuple[int, Address], ...]:
    """The first gap for each part that has none, as part and address; empty where one of them finds
    none."""
    found: list[tuple[int, Address]] = []
    parts = zip(show.footprints_of(fixture), fixture.patch, strict=False)
    for part, (footprint, patch) in enumerate(parts):
        if footprint and patch.slot is None:
            if found:  # what was found for the part before it is taken
                show = edits.place(show, fixture.id, found[-1][1], part=found[-1][0])
            home = patch.universe or min(show.universe_by_number, default=1)
            target = _first_gap(show, home, footprint, fixture)
            if target is None:
                return ()
            found.append((part, target))
    return tuple(found)


def _first_gap(show: Show, home: int, length: int, fixture: Fixture) -> Address | None:
    """The first gap in a universe, else in the next that has one."""
    if home <= show.desk.last_universe:
        fits = desk_starts(show, free_bits(show, home), length, setter=_setter(show, fixture))
        if slot := first_from(fits):
            return Address(home, slot)
    return next_universe_with_room(show, home, length, fixture)


def _rejoin(show: Show, fixtures: list[Fixture]) -> Iterator[Mend]:
    lead, member = fixtures[0], fixtures[-1]
    if member.profile != lead.profile or lead.start is None:
        return
    if member.mode != lead.mode:
        yield Mend(
            f"Put {member.label} into mode {lead.mode}",
            f"{lead.label} is in that mode.",
            ChangeMode(member.id, lead.mode),
        )
    elif member.patch != lead.patch:
        yield from _join(show, lead, member)


def _join(show: Show, lead: Fixture, member: Fixture) -> Iterator[Mend]:
    """Put a member of a group where another one is, if they are alike and no pin holds it
    elsewhere."""
    if (
        (member.profile, member.mode) != (lead.profile, lead.mode)
        or member.pinned
        or member.patch == lead.patch
    ):
        return
    yield Mend(
        f"Move {member.label} to {lead.planned_at}, where {lead.label} is",
        "Fixtures that share listen to one address.",
        Share((lead.id, member.id), lead.share),
    )


def _modes(
    show: Show, fixtures: list[Fixture], wanted: Callable[[Mode], bool] = lambda mode: True
) -> Iterator[Mend]:
    for fixture in fixtures:
        profile = show.profile_of(fixture)
        modes: tuple[Mode, ...] = profile.modes if profile else ()
        for mode in filter(wanted, modes):
            why = (
                f"{counted(mode.footprint, 'channel')}, from the chart of "
                f"{profile.title if profile else ''}."
            )
            yield Mend(
                f"Put {fixture.label} into mode {mode.name}", why, ChangeMode(fixture.id, mode.name)
            )


def _new_numbers(show: Show, fixtures: list[Fixture]) -> Iterator[Mend]:
    free = edits.next_number(show)
    highest = max((fixture.number or 0 for fixture in show.fixtures), default=0)
    why = (
        f"{free} is the first number after all others."
        if free > highest
        else f"{free} is not in use."
    )
    for fixture in reversed(fixtures):
        yield Mend(f"Give {fixture.label} number {free}", why, Renumber(fixture.id, free))


def _new_labels(show: Show, fixtures: list[Fixture]) -> Iterator[Mend]:
    taken = {fixture.label for fixture in show.fixtures}
    stem = fixtures[-1].label.rstrip("0123456789").rstrip() or fixtures[-1].label
    label = next(
        name for count in range(1, len(taken) + 2) if (name := _counted(stem, count)) not in taken
    )
    yield Mend(
        f"Rename the last one {label}", f"{label} is not in use.", Relabel(fixtures[-1].id, label)
    )


def _counted(stem: str, count: int) -> str:
    """A label with a number behind it; its end gives way where it would come to be too long."""
    return f"{stem[: LONGEST_TEXT - len(str(count)) - 1]} {count}"


_WAYS: Mapping[str, Callable[[Show, Finding, list[Fixture]], Iterable[Mend]]] = {
    "overlap": _ways_out_of_overlap,
    "past-end": _to_where_it_fits,
    "reserved": _to_where_it_fits,
    "setter-range": _to_where_it_fits,
    "universe-limit": _to_where_it_fits,
    "page-grid": _to_where_it_fits,
    "no-address": _places_for_all,
    "share-mismatch": lambda show, _, fixtures: _rejoin(show, fixtures),
    "mode-missing": lambda show, _, fixtures: _modes(show, fixtures),
    "page-size": lambda show, _, fixtures: _modes(
        show, fixtures, lambda mode: fits_page(mode, show.desk.page)
    ),
    "desk-layout": lambda show, _, fixtures: _modes(
        show, fixtures, lambda mode: matches_layout(mode, show.desk.layout)
    ),
    "duplicate-number": lambda show, _, fixtures: _new_numbers(show, fixtures),
    "duplicate-label": lambda show, _, fixtures: _new_labels(show, fixtures),
}
"""The ways out by the rule that found it."""
