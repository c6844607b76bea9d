"""The address family of rules: every fixture its own run of slots, inside its universe, settable at the fixture.

A show is read once; each universe is then swept once over its runs in order of start, with the runs still open kept in
a short list. Memory is linear in the number of fixtures. Findings come one by one, so that a caller can stop early.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from heapq import heappop, heappush
from itertools import chain
from typing import NamedTuple

from fence.core.checks.finding import Finding, Rule, Severity, which_parts
from fence.core.checks.single import no_address, no_mode, unlike_sharers, unsettable, used_twice
from fence.core.words.address import SLOTS
from fence.core.words.desk import TellTale
from fence.core.words.fixture import Fixture
from fence.core.words.profile import Mode
from fence.core.words.show import Show, slot_meaning
from fence.core.words.space import use_of
from fence.core.words.text import counted, from_to, joined

FULL_AT = 90
"""Percent of the slots that the desk sends from which on a universe is called nearly full. Practice, not standard."""

RULES = (
    Rule(
        "overlap",
        "Overlap",
        "Two fixtures listen to the same slots: what is meant for one moves the other as well.",
    ),
    Rule(
        "past-end",
        "Past the end",
        "A universe ends at slot 512; channels beyond it are never sent to the fixture.",
    ),
    Rule("no-address", "No address", "A fixture without an address cannot be set or patched."),
    Rule("share-mismatch", "Sharing does not match", "Fixtures share an address only if they read it alike."),
    Rule("reserved", "On reserved slots", "The slots are kept for another use and will carry other levels."),
    Rule(
        "setter-range",
        "Cannot be set",
        "The fixture's switches or wheels cannot be set to the planned address.",
    ),
    Rule("mode-missing", "Mode missing", "Without its mode the fixture's channel count is not known."),
    Rule(
        "universe-limit",
        "Beyond the desk",
        "What lies beyond the desk's last universe or slot is never sent.",
    ),
    Rule(
        "tell-tale", "Cannot be told", "The tell-tale slot says a universe's number only as far as its scale reaches."
    ),
    Rule("universe-full", "Nearly full", "Little room is left for late additions."),
    Rule("duplicate-number", "Number used twice", "People call fixtures by number; two would answer."),
    Rule("duplicate-label", "Label used twice", "Two fixtures of one name are taken for each other."),
)


@dataclass(slots=True)
class _Reading:
    """What one pass over the fixtures collects for the rules."""

    runs: defaultdict[int, list[_Run]] = field(default_factory=lambda: defaultdict(list))
    groups: dict[str, list[Fixture]] = field(default_factory=dict)
    modeless: list[Fixture] = field(default_factory=list)
    unplaced: list[Fixture] = field(default_factory=list)
    unsettable: list[tuple[Fixture, int]] = field(default_factory=list)


def check_addresses(show: Show) -> Iterator[Finding]:
    """All findings of the address family, rule by rule within each universe."""
    reading = _read(show)
    yield from chain(
        _sweep_all(show, reading),
        no_mode(show, reading.modeless),
        no_address(reading.unplaced),
        unlike_sharers(show, reading.groups.items()),
        unsettable(show, reading.unsettable),
        used_twice(show),
    )


class _Facts(NamedTuple):
    """What the rules need of a mode, looked up once for each fixture."""

    single: int
    footprints: tuple[int, ...]
    lowest: int
    highest: int


def _facts(show: Show) -> dict[str, dict[str, _Facts]]:
    facts: dict[str, dict[str, _Facts]] = {}
    for profile in show.profiles:
        lowest, highest = profile.setter.settable
        of_modes = facts[profile.id] = {}
        for mode in profile.modes:
            footprints = tuple(part.footprint for part in mode.parts)
            single = footprints[0] if len(footprints) == 1 else 0
            of_modes[mode.name] = _Facts(single, footprints, lowest, highest)
    return facts


def _read(show: Show) -> _Reading:
    """Collect runs and oddities. The common case, one part with a start, is kept on a short path."""
    reading = _Reading()
    runs, facts = reading.runs, _facts(show)
    for index, fixture in enumerate(show.fixtures):
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
            runs[universe].append((slot, slot + single - 1, index, 0))
            if slot < lowest or slot > highest:
                reading.unsettable.append((fixture, 0))
        else:
            _read_parts(reading, index, fixture, footprints, lowest, highest)
    return reading


def _read_parts(
    reading: _Reading, index: int, fixture: Fixture, footprints: tuple[int, ...], lowest: int, highest: int
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
        reading.runs[patch.universe].append((patch.slot, patch.slot + footprint - 1, index, part))
        if not lowest <= patch.slot <= highest:
            reading.unsettable.append((fixture, part))


def _sweep_all(show: Show, reading: _Reading) -> Iterator[Finding]:
    limit = show.desk.universes
    for universe in sorted(reading.runs.keys() | show.universe_by_number.keys()):
        runs = reading.runs.get(universe, [])
        runs.sort()
        if limit is not None and universe > limit:
            yield _beyond_desk(show, universe, limit, runs)
        yield from _sweep(show, universe, runs)
        if show.tell_tale and show.tell_tale.level(universe) is None:
            yield _not_told(show.tell_tale, universe)
        if reserved := show.reserved_in(universe):
            yield from _on_reserved(show, universe, reserved, runs)
        if len(runs) and sum([run[1] - run[0] + 1 for run in runs]) * 100 >= show.desk.highest * FULL_AT:
            yield from _nearly_full(show, universe)


_Run = tuple[int, int, int, int]
"""First and last slot, the fixture by its place in the show, its part."""


def _sweep(show: Show, universe: int, runs: Sequence[_Run]) -> Iterator[Finding]:
    held = _Open()
    for run in runs:
        first, last, index, _ = run
        if last > SLOTS:
            yield _past_end(show, universe, run)
        held.close_before(first)
        for other in held.met_by(run, show.fixtures[index].share):
            yield _overlap(show, universe, other, run)
        held.add(run, show.fixtures[index].share)


class _Open:
    """The runs that reach on over the slot that a sweep is at, by sharing group: those of one group meet on purpose,
    and looking at each pair of them would take for ever where thousands share."""

    def __init__(self) -> None:
        self._ends: list[tuple[int, int]] = []
        self._held: dict[int, tuple[_Run, str]] = {}
        self._groups: dict[str, dict[int, _Run]] = {}
        self._fixtures: dict[int, dict[int, _Run]] = {}
        self._count = 0

    def close_before(self, first: int) -> None:
        """Let go of the runs that end before a slot."""
        while self._ends and self._ends[0][0] < first:
            _, number = heappop(self._ends)
            run, group = self._held.pop(number)
            del self._groups[group][number], self._fixtures[run[2]][number]
            if not self._groups[group]:
                del self._groups[group]
            if not self._fixtures[run[2]]:
                del self._fixtures[run[2]]

    def met_by(self, run: _Run, group: str) -> Iterator[_Run]:
        """The open runs that a run meets without this being meant, in their order: those of other groups, and the other
        parts of the same fixture."""
        met: dict[int, _Run] = {}
        for name, members in self._groups.items():
            if not group or name != group:
                met |= members
        met |= self._fixtures.get(run[2], {})
        return iter([met[number] for number in sorted(met)])

    def add(self, run: _Run, group: str) -> None:
        """Open a run."""
        number = self._count
        self._count += 1
        heappush(self._ends, (run[1], number))
        self._held[number] = (run, group)
        self._groups.setdefault(group, {})[number] = run
        self._fixtures.setdefault(run[2], {})[number] = run


def _overlap(show: Show, universe: int, earlier: _Run, later: _Run) -> Finding:
    a, b = show.fixtures[earlier[2]], show.fixtures[later[2]]
    first, last = later[0], min(earlier[1], later[1], SLOTS)
    if a is b:
        opening = f"{a.label}’s own parts meet: one takes {from_to(*earlier[:2])}, another starts at {later[0]}."
    elif earlier[0] == later[0]:
        opening = f"{a.label} and {b.label} both start at {later[0]}."
    elif later[1] <= earlier[1]:
        opening = f"{b.label} at {later[0]} lies inside {a.label}, which takes {from_to(*earlier[:2])}."
    else:
        opening = f"{a.label} ends at {earlier[1]}; {b.label} starts at {later[0]}."
    return Finding(
        "overlap",
        Severity.STOP,
        f"{opening} {_meanings(show, earlier, later, first, last)}"
        + (" Both run past the end." if min(earlier[1], later[1]) > SLOTS else ""),
        (a.id,) if a is b else (a.id, b.id),
        universe,
        first,
        last,
        about=which_parts(earlier[3], later[3]),
    )


def _meanings(show: Show, earlier: _Run, later: _Run, first: int, last: int) -> str:
    """What the shared slots mean to both, in the words of the charts."""
    a, b = show.fixtures[earlier[2]], show.fixtures[later[2]]
    mine, theirs = show.mode_of(a), show.mode_of(b)
    assert mine is not None
    assert theirs is not None
    if not (mine.parts[earlier[3]].channels and theirs.parts[later[3]].channels):
        slots = f"Slot {first} belongs" if first == last else f"Slots {first} to {last} belong"
        return f"{slots} to both."
    left = _listed(mine, earlier[3], first - earlier[0], last - earlier[0])
    right = _listed(theirs, later[3], first - later[0], last - later[0])
    if left == right:
        return f"Both take the same {left} from the desk."
    verb = "is" if first == last else "are"
    return f"{a.label}’s {left} {verb} {b.label}’s {right}."


def _listed(mode: Mode, part: int, first: int, last: int) -> str:
    words = [slot_meaning(mode, part, offset) for offset in range(first, last + 1)]
    return joined(words, most=3)


def _past_end(show: Show, universe: int, run: _Run) -> Finding:
    first, last, index, part = run
    fixture = show.fixtures[index]
    mode = show.mode_of(fixture)
    assert mode is not None
    over, length = last - SLOTS, last - first + 1
    lost = ""
    if mode.parts[part].channels:
        lost = f" Its {_listed(mode, part, length - over, length - 1)} would never arrive."
    return Finding(
        "past-end",
        Severity.STOP,
        f"{fixture.label} needs {counted(length, 'channel')} from {first}, up to {last}: "
        f"{over} past the end of U{universe}.{lost} Its last start here is {SLOTS + 1 - length}.",
        (fixture.id,),
        universe,
        first,
        last,
        about=which_parts(part),
    )


def _beyond_desk(show: Show, universe: int, limit: int, runs: Sequence[_Run]) -> Finding:
    ids = tuple(dict.fromkeys(show.fixtures[index].id for _, _, index, _ in runs))
    desk = show.desk.name or "The desk"
    sent = f"universes 1 to {limit}" if limit > 1 else "universe 1 only"
    return Finding(
        "universe-limit",
        Severity.STOP if ids else Severity.NOTE,
        f"{desk} sends {sent}; U{universe}, with {counted(len(ids), 'fixture')}, is beyond it.",
        ids,
        universe,
        about="universe",
    )


def _not_told(tell_tale: TellTale, universe: int) -> Finding:
    return Finding(
        "tell-tale",
        Severity.CAUTION,
        f"The tell-tale slot {tell_tale.slot} cannot say U{universe}: in {tell_tale.scale} it reaches to "
        f"{tell_tale.scale.highest}.",
        (),
        universe,
        tell_tale.slot,
        tell_tale.slot,
    )


def _on_reserved(show: Show, universe: int, reserved: tuple[int, ...], runs: Sequence[_Run]) -> Iterator[Finding]:
    for first, last, index, part in runs:
        hit = [slot for slot in reserved if first <= slot <= last]
        if hit:
            fixture = show.fixtures[index]
            slots = f"slot {hit[0]}" if len(hit) == 1 else f"{len(hit)} reserved slots from {hit[0]}"
            kept = f"U{universe} keeps free"
            if show.tell_tale and hit == [show.tell_tale.slot]:
                kept = f"tells U{universe} apart (the tell-tale slot)"
            yield Finding(
                "reserved",
                Severity.STOP,
                f"{fixture.label} takes {from_to(first, last)} and covers {slots}, which {kept}.",
                (fixture.id,),
                universe,
                hit[0],
                hit[-1],
                about=which_parts(part),
            )


def _nearly_full(show: Show, universe: int) -> Iterator[Finding]:
    use = use_of(show, universe)
    sent = use.sent or SLOTS
    percent = use.used * 100 // sent
    if use.used * 100 >= sent * FULL_AT:
        yield Finding(
            "universe-full",
            Severity.NOTE,
            f"U{universe} is {percent} % full: {counted(use.free, 'slot')} left"
            + (f", the largest gap is {use.largest_gap.length}." if use.largest_gap else "."),
            (),
            universe,
        )
