"""One look at all fixtures of a show: which slots each takes, and what is to be said of some.

Rules, gaps, repairs and drawings all begin with it. An edit changes a few of many fixtures, and the
fixtures that it leaves alone stay the same values; so a look at the show after the edit begins with
the last looks, and reads anew only the universes in which something changed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import compress, count
from operator import is_, is_not
from typing import Any, NamedTuple

from fence.core.model.address import EVERY_SLOT, SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Profile

Span = tuple[int, int, int, int]
"""First and last slot (above 512 where it runs past the end), the fixture by its place in the
show, its part."""


@dataclass(slots=True)
class Occupancy:
    """What one look at the fixtures collects; they are named by their places in the show.

    ``spans`` are the slots that parts take in each universe, in order; ``heaps`` those of them that
    may be in trouble: spans that meet others, with all that they meet in turn, and those past the
    end. ``groups`` are the members of each sharing group, ``modeless`` those whose mode the chart
    lacks, ``unplaced`` those that have a part without an address, ``unsettable`` the parts at
    addresses that cannot be set. ``recorded`` are those that were set, read back or proven,
    ``signed`` those that show a sign. ``worked_out`` is for what others find out of the spans of
    one universe: it is kept until one of its fixtures changes.
    """

    spans: dict[int, list[Span]] = field(default_factory=dict)
    heaps: dict[int, list[list[Span]]] = field(default_factory=dict)
    groups: dict[str, list[int]] = field(default_factory=dict)
    modeless: list[int] = field(default_factory=list)
    unplaced: list[int] = field(default_factory=list)
    unsettable: list[tuple[int, int]] = field(default_factory=list)
    recorded: list[int] = field(default_factory=list)
    signed: list[int] = field(default_factory=list)
    worked_out: dict[int, dict[str, Any]] = field(default_factory=dict, compare=False)
    _placed: frozenset[int] | None = field(default=None, init=False, compare=False)

    def kept(self, universe: int) -> dict[str, Any]:
        """What was worked out of one universe so far, to be looked up and added to."""
        return self.worked_out.setdefault(universe, {})

    def placed_in(self, universe: int) -> frozenset[int]:
        """The fixtures that take slots of a universe."""
        kept = self.kept(universe)
        if "placed" not in kept:
            kept["placed"] = frozenset([span[2] for span in self.spans.get(universe, ())])
        placed: frozenset[int] = kept["placed"]
        return placed

    @property
    def placed(self) -> frozenset[int]:
        """The fixtures that take any slots."""
        if self._placed is None:
            self._placed = frozenset().union(*map(self.placed_in, self.spans))
        return self._placed


class _Look(NamedTuple):
    """A look that was taken, and of what."""

    fixtures: tuple[Fixture, ...]
    profiles: tuple[Profile, ...]
    found: Occupancy


_LAST: deque[_Look] = deque(maxlen=4)
"""The last looks, the newest first: those of a show, of edits of it that are previews."""


def occupancy_of(fixtures: tuple[Fixture, ...], profiles: tuple[Profile, ...]) -> Occupancy:
    """What the fixtures take, read anew only where none of the last looks says it."""
    found = _followed(fixtures, profiles) or read_fixtures(fixtures, profiles)
    _LAST.appendleft(_Look(fixtures, profiles, found))
    return found


def _followed(fixtures: tuple[Fixture, ...], profiles: tuple[Profile, ...]) -> Occupancy | None:
    """What the fixtures take by the last look that has most of them; None where none has half."""
    best, fewest = None, len(fixtures) // 2
    for look in tuple(_LAST):
        if len(look.fixtures) > len(fixtures) or not _says_the_same(look, profiles):
            continue
        changed = list(compress(count(), map(is_not, look.fixtures, fixtures)))
        changed += range(len(look.fixtures), len(fixtures))
        if len(changed) < fewest or (best is None and not changed):
            best, fewest = (look, changed), len(changed)
    return _following(*best, fixtures, profiles) if best else None


def _says_the_same(look: _Look, profiles: tuple[Profile, ...]) -> bool:
    """Whether every fixture of a look has the mode that it had then: the profiles are the same, but
    for some that were added while no mode was missing."""
    if look.profiles is profiles:
        return True
    added = profiles[len(look.profiles) :]
    same = len(look.profiles) <= len(profiles) and all(map(is_, look.profiles, profiles))
    if not same or not added:
        return same
    known = {profile.id for profile in look.profiles}
    return not look.found.modeless and not any(profile.id in known for profile in added)


def _following(
    look: _Look,
    changed: list[int],
    fixtures: Sequence[Fixture],
    profiles: Iterable[Profile],
) -> Occupancy:
    """What a look found, with the ``changed`` fixtures read anew."""
    if not changed:
        return look.found
    before, known = look.found, set(changed)
    held = [look.fixtures[index] for index in changed if index < len(look.fixtures)]
    touched = {
        entry.universe
        for fixture in (*held, *(fixtures[index] for index in changed))
        for entry in fixture.patch
        if entry.universe is not None
    }
    found = Occupancy(
        {number: spans for number, spans in before.spans.items() if number not in touched},
        {number: heaps for number, heaps in before.heaps.items() if number not in touched},
        {
            group: members
            for group, of_it in before.groups.items()
            if (members := [index for index in of_it if index not in known])
        },
        [index for index in before.modeless if index not in known],
        [index for index in before.unplaced if index not in known],
        [part for part in before.unsettable if part[0] not in known],
        [index for index in before.recorded if index not in known],
        [index for index in before.signed if index not in known],
        {number: kept for number, kept in before.worked_out.items() if number not in touched},
    )
    for number in touched & before.spans.keys():
        left = [span for span in before.spans[number] if span[2] not in known]
        if left:
            found.spans[number] = left
    _read(found, fixtures, changed, _facts(profiles))
    _in_order(found, touched)
    for members in found.groups.values():
        members.sort()
    found.groups = dict(sorted(found.groups.items(), key=lambda group: group[1][0]))
    for some in (found.modeless, found.unplaced, found.recorded, found.signed):
        some.sort()
    found.unsettable.sort()
    return found


def read_fixtures(fixtures: Sequence[Fixture], profiles: Iterable[Profile]) -> Occupancy:
    """What the fixtures take, all of them read."""
    found = Occupancy()
    _read(found, fixtures, range(len(fixtures)), _facts(profiles))
    _in_order(found, list(found.spans))
    return found


class _Facts(NamedTuple):
    """What is asked of a mode, looked up once for each fixture."""

    single: int
    footprints: tuple[int, ...]
    lowest: int
    highest: int


def _facts(profiles: Iterable[Profile]) -> dict[str, dict[str, _Facts]]:
    facts: dict[str, dict[str, _Facts]] = {}
    for profile in profiles:
        lowest, highest = profile.setter.settable
        of_modes = facts[profile.id] = {}
        for mode in profile.modes:
            footprints = tuple(part.footprint for part in mode.parts)
            single = footprints[0] if len(footprints) == 1 else 0
            of_modes[mode.name] = _Facts(single, footprints, lowest, highest)
    return facts


def _read(
    found: Occupancy,
    fixtures: Sequence[Fixture],
    indexes: Iterable[int],
    facts: dict[str, dict[str, _Facts]],
) -> None:
    """Add the spans of some fixtures, and what is to be said of them. The common case, one part
    with a start, is kept on a short path."""
    spans = found.spans
    for index in indexes:
        fixture = fixtures[index]
        if (
            fixture.set_to is not None
            or fixture.read_back is not None
            or fixture.proven is not None
        ):
            found.recorded.append(index)
        if fixture.sign is not None:
            found.signed.append(index)
        try:
            single, footprints, lowest, highest = facts[fixture.profile][fixture.mode]
        except KeyError:
            found.modeless.append(index)
            continue
        if fixture.share:
            found.groups.setdefault(fixture.share, []).append(index)
        patch = fixture.patch[0]
        slot, universe = patch.slot, patch.universe
        if single and slot is not None and universe is not None:
            span = (slot, slot + single - 1, index, 0)
            if universe in spans:
                spans[universe].append(span)
            else:
                spans[universe] = [span]
            if slot < lowest or slot > highest:
                found.unsettable.append((index, 0))
        else:
            _read_parts(found, index, fixture, footprints, (lowest, highest))


def _read_parts(
    found: Occupancy,
    index: int,
    fixture: Fixture,
    footprints: tuple[int, ...],
    settable: tuple[int, int],
) -> None:
    """A part without an address is told once; the parts after it are read all the same."""
    missing = False
    for part, footprint in enumerate(footprints):
        if not footprint:
            continue
        patch = fixture.patch[part] if part < len(fixture.patch) else None
        if patch is None or patch.slot is None or patch.universe is None:
            if not missing:
                found.unplaced.append(index)
            missing = True
            continue
        span = (patch.slot, patch.slot + footprint - 1, index, part)
        found.spans.setdefault(patch.universe, []).append(span)
        if not settable[0] <= patch.slot <= settable[1]:
            found.unsettable.append((index, part))


def _in_order(found: Occupancy, universes: Collection[int]) -> None:
    """Sort the spans of universes, and find their heaps."""
    for universe in universes:
        if spans := found.spans.get(universe):
            spans.sort()
            if heaps := list(_heaps(spans)):
                found.heaps[universe] = heaps


def slots_of(spans: Iterable[Span]) -> int:
    """The slots that spans take, as bits: bit 0 for slot 1."""
    bits = 0
    for first, last, _, _ in spans:
        bits |= (1 << last) - (1 << first - 1)
    return bits & EVERY_SLOT


def _heaps(spans: list[Span]) -> Iterator[list[Span]]:
    """The heaps among spans that come by their first slots."""
    start, reach = 0, 0
    for place, (first, last, _, _) in enumerate(spans):
        if first > reach:
            if place - start > 1 or reach > SLOTS:
                yield spans[start:place]
            start = place
        if last > reach:
            reach = last
    if len(spans) - start > 1 or reach > SLOTS:
        yield spans[start:]
