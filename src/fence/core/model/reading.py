"""One look at all fixtures of a show: which slots each takes, and what is odd about some.

Rules, gaps, repairs and drawings all begin with it, so it is taken once a show.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from fence.core.model.address import EVERY_SLOT, SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Profile

Span = tuple[int, int, int, int]
"""First and last slot (above 512 where it runs past the end), the fixture by its place in the
show, its part."""


@dataclass(slots=True)
class Reading:
    """What one pass over the fixtures collects; nobody changes it afterwards.

    ``spans`` are the slots that parts take in each universe, in order; ``heaps`` those of them that
    may be in trouble: spans that meet others, with all that they meet in turn, and those past the
    end. ``groups`` are the members
    of each sharing group, ``modeless`` those whose mode the chart lacks, ``unplaced`` those that
    have a part without an address, ``unsettable`` the parts at addresses
    that cannot be set, by their fixtures' places in the show.
    """

    spans: defaultdict[int, list[Span]] = field(default_factory=lambda: defaultdict(list))
    heaps: dict[int, list[list[Span]]] = field(default_factory=dict)
    groups: dict[str, list[Fixture]] = field(default_factory=dict)
    modeless: list[Fixture] = field(default_factory=list)
    unplaced: list[Fixture] = field(default_factory=list)
    unsettable: list[tuple[int, int]] = field(default_factory=list)


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


def read_fixtures(fixtures: Sequence[Fixture], profiles: Iterable[Profile]) -> Reading:
    """Collect spans and oddities. The common case, one part with a start, is kept on a short
    path."""
    reading = Reading()
    spans, facts = reading.spans, _facts(profiles)
    for index, fixture in enumerate(fixtures):
        try:
            single, footprints, lowest, highest = facts[fixture.profile][fixture.mode]
        except KeyError:
            reading.modeless.append(fixture)
            continue
        if fixture.share:
            reading.groups.setdefault(fixture.share, []).append(fixture)
        patch = fixture.patch[0]
        slot, universe = patch.slot, patch.universe
        if single and slot is not None and universe is not None:
            spans[universe].append((slot, slot + single - 1, index, 0))
            if slot < lowest or slot > highest:
                reading.unsettable.append((index, 0))
        else:
            _read_parts(reading, index, fixture, footprints, lowest, highest)
    for universe, here in spans.items():
        here.sort()
        if heaps := list(_heaps(here)):
            reading.heaps[universe] = heaps
    return reading


def slots_of(spans: Iterable[Span]) -> int:
    """The slots that spans take, as bits: bit 0 for slot 1."""
    bits = 0
    for first, last, _, _ in spans:
        bits |= (1 << last) - (1 << first - 1)
    return bits & EVERY_SLOT


def _read_parts(
    reading: Reading,
    index: int,
    fixture: Fixture,
    footprints: tuple[int, ...],
    lowest: int,
    highest: int,
) -> None:
    """A part without an address is told once; the parts after it are read all the same."""
    missing = False
    for part, footprint in enumerate(footprints):
        if not footprint:
            continue
        patch = fixture.patch[part] if part < len(fixture.patch) else None
        if patch is None or patch.slot is None or patch.universe is None:
            if not missing:
                reading.unplaced.append(fixture)
            missing = True
            continue
        reading.spans[patch.universe].append((patch.slot, patch.slot + footprint - 1, index, part))
        if not lowest <= patch.slot <= highest:
            reading.unsettable.append((index, part))


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
