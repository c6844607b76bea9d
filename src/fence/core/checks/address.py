"""The address family of rules: every fixture its own run of slots, inside its universe, settable at
the fixture.

A show is read once; each universe is then swept once over its runs in order of start, with the runs
still open kept in a short list. Memory is linear in the number of fixtures. Findings come one by
one, so that a caller can stop early.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from heapq import heappop, heappush
from itertools import chain
from typing import TypeVar

from fence.core.checks.finding import Finding, Rule, Severity, which_parts
from fence.core.checks.single import no_address, no_mode, unlike_sharers, unsettable, used_twice
from fence.core.model.address import SLOTS
from fence.core.model.desk import TellTale
from fence.core.model.occupancy import Span
from fence.core.model.profile import Mode
from fence.core.model.show import Show, slot_meaning
from fence.core.model.space import use_of
from fence.core.model.text import counted, from_to, joined

_Key = TypeVar("_Key")

FULL_AT = 90
"""Percent of the slots that the desk sends from which on a universe is called nearly full.
Practice, not standard."""

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
    Rule(
        "share-mismatch",
        "Sharing does not match",
        "Fixtures share an address only if they read it alike.",
    ),
    Rule(
        "reserved",
        "On reserved slots",
        "The slots are kept for another use and will carry other levels.",
    ),
    Rule(
        "setter-range",
        "Cannot be set",
        "The fixture's switches or wheels cannot be set to the planned address.",
    ),
    Rule(
        "mode-missing", "Mode missing", "Without its mode the fixture's channel count is not known."
    ),
    Rule(
        "universe-limit",
        "Beyond the desk",
        "What lies beyond the desk's last universe or slot is never sent.",
    ),
    Rule(
        "tell-tale",
        "Cannot be told",
        "The tell-tale slot says a universe's number only as far as its scale reaches.",
    ),
    Rule("universe-full", "Nearly full", "Little room is left for late additions."),
    Rule(
        "duplicate-number", "Number used twice", "People call fixtures by number; two would answer."
    ),
    Rule(
        "duplicate-label", "Label used twice", "Two fixtures of one name are taken for each other."
    ),
)


def check_addresses(show: Show) -> Iterator[Finding]:
    """All findings of the address family, rule by rule within each universe."""
    fixtures, found = show.fixtures, show.occupancy
    groups = ((name, [fixtures[i] for i in members]) for name, members in found.groups.items())
    yield from chain(
        _all_universes(show),
        no_mode(show, (fixtures[index] for index in found.modeless)),
        no_address(fixtures[index] for index in found.unplaced),
        unlike_sharers(show, groups),
        unsettable(show, ((fixtures[index], part) for index, part in found.unsettable)),
        used_twice(show),
    )


MOST_KEPT = 100
"""Findings of a universe that are kept for the next look at it."""


def _all_universes(show: Show) -> Iterator[Finding]:
    """What is said of each universe: found out anew where its fixtures, or what it is measured by,
    changed."""
    spans = show.occupancy.spans
    for universe in sorted(spans.keys() | show.universe_by_number.keys()):
        if universe not in spans:
            yield from _universe(show, universe, ())
            continue
        kept = show.occupancy.kept(universe)
        measure = (show.desk, show.tell_tale, show.reserved_in(universe))
        if "findings" in kept and kept["findings"][0] == measure:
            yield from kept["findings"][1]
            continue
        found: list[Finding] = []
        for finding in _universe(show, universe, spans[universe]):
            yield finding
            if len(found) <= MOST_KEPT:
                found.append(finding)
        if len(found) <= MOST_KEPT:
            kept["findings"] = measure, found


def _universe(show: Show, universe: int, runs: Sequence[Span]) -> Iterator[Finding]:
    limit = show.desk.universes
    if limit is not None and universe > limit:
        yield _beyond_desk(show, universe, limit, runs)
    for heap in show.occupancy.heaps.get(universe, ()):
        yield from _sweep(show, universe, heap)
    if show.tell_tale and show.tell_tale.level(universe) is None:
        yield _not_told(show.tell_tale, universe)
    if reserved := show.reserved_in(universe):
        yield from _on_reserved(show, universe, reserved, runs)
    if sum([run[1] - run[0] + 1 for run in runs]) * 100 >= show.desk.highest * FULL_AT:
        yield from _nearly_full(show, universe)


def _sweep(show: Show, universe: int, runs: Sequence[Span]) -> Iterator[Finding]:
    held = _Open()
    for run, members in _as_one(show, runs):
        first, last, index, _ = run
        if last > SLOTS:
            for member in members:
                yield _past_end(show, universe, (first, last, member, run[3]))
        held.close_before(first)
        group = show.fixtures[index].share
        for other, theirs in held.met_by(members, group):
            # of one group only the own parts of a fixture can be meant
            if theirs == members or (group and group == show.fixtures[other[2]].share):
                here = set(members)
                own = tuple(member for member in theirs if member in here)
                yield _overlap(show, universe, (other, own), (run, own))
            else:
                yield _overlap(show, universe, (other, theirs), (run, members))
        held.add(run, members, group)


def _as_one(show: Show, runs: Sequence[Span]) -> Iterator[tuple[Span, _Members]]:
    """The runs with the fixtures that stand there: those of a group in one place come once, at the
    first of them."""
    if not any(show.fixtures[run[2]].share for run in runs):
        for run in runs:
            yield run, (run[2],)
        return
    found: dict[tuple[int, int, int, str], list[int]] = {}
    for first, last, index, part in runs:
        group = show.fixtures[index].share or f"\0{index}"
        found.setdefault((first, last, part, group), []).append(index)
    for (first, last, part, _), members in found.items():
        yield (first, last, members[0], part), tuple(members)


_Members = tuple[int, ...]
"""The fixtures of a run, by their places in the show: one, or those of a group that stand there
together."""


class _Open:
    """The runs that reach on over the slot that a sweep is at, by sharing group: those of one group
    meet on purpose, and looking at each pair of them would take for ever where thousands share."""

    def __init__(self) -> None:
        self._ends: list[tuple[int, int]] = []
        self._held: dict[int, tuple[Span, _Members, str]] = {}
        self._groups: dict[str, dict[int, tuple[Span, _Members]]] = {}
        self._fixtures: dict[int, dict[int, tuple[Span, _Members]]] = {}
        self._count = 0

    def close_before(self, first: int) -> None:
        """Let go of the runs that end before a slot."""
        while self._ends and self._ends[0][0] < first:
            _, number = heappop(self._ends)
            _, members, group = self._held.pop(number)
            _drop(self._groups, group, number)
            for member in members:
                _drop(self._fixtures, member, number)

    def met_by(self, members: _Members, group: str) -> Iterator[tuple[Span, _Members]]:
        """The open runs that a run meets without this being meant, in their order: those of other
        groups, and the other parts of the same fixtures."""
        met: dict[int, tuple[Span, _Members]] = {}
        for name, others in self._groups.items():
            if not group or name != group:
                met |= others
        for member in members:
            met |= self._fixtures.get(member, {})
        return iter([met[number] for number in sorted(met)])

    def add(self, run: Span, members: _Members, group: str) -> None:
        """Open a run."""
        number = self._count
        self._count += 1
        heappush(self._ends, (run[1], number))
        self._held[number] = (run, members, group)
        self._groups.setdefault(group, {})[number] = (run, members)
        for member in members:
            self._fixtures.setdefault(member, {})[number] = (run, members)


def _drop(held: dict[_Key, dict[int, tuple[Span, _Members]]], key: _Key, number: int) -> None:
    """Take one entry out, and what holds none any more."""
    del held[key][number]
    if not held[key]:
        del held[key]


def _overlap(
    show: Show, universe: int, earlier: tuple[Span, _Members], later: tuple[Span, _Members]
) -> Finding:
    (before, those), (behind, these) = earlier, later
    first, last = behind[0], min(before[1], behind[1], SLOTS)
    one, other = _called(show, those), _called(show, these)
    if those == these:
        label = show.fixtures[those[0]].label
        opening = (
            f"{label}’s own parts meet: one takes {from_to(*before[:2])}, another starts at "
            f"{behind[0]}."
        )
        ids = tuple(show.fixtures[index].id for index in those)
    else:
        ids = tuple(show.fixtures[index].id for index in (*those, *these))
        if before[0] == behind[0]:
            opening = f"{one} and {other} both start at {behind[0]}."
        elif behind[1] <= before[1]:
            opening = (
                f"{other} at {behind[0]} lies inside {one}, which takes {from_to(*before[:2])}."
            )
        else:
            opening = f"{one} ends at {before[1]}; {other} starts at {behind[0]}."
    shared = _meanings(
        show, (*before[:2], those[0], before[3]), (*behind[:2], these[0], behind[3]), first, last
    )
    return Finding(
        "overlap",
        Severity.STOP,
        f"{opening} {shared}"
        + (" Both run past the end." if min(before[1], behind[1]) > SLOTS else ""),
        ids,
        universe,
        first,
        last,
        about=which_parts(before[3], behind[3]),
    )


def _called(show: Show, members: _Members) -> str:
    """What people call a fixture, or the first of those that stand in one place, with how many
    share it."""
    label = show.fixtures[members[0]].label
    return label if len(members) == 1 else f"{label} (with {len(members) - 1} sharing its address)"


def _meanings(show: Show, earlier: Span, later: Span, first: int, last: int) -> str:
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


def _past_end(show: Show, universe: int, run: Span) -> Finding:
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


def _beyond_desk(show: Show, universe: int, limit: int, runs: Sequence[Span]) -> Finding:
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
        f"The tell-tale slot {tell_tale.slot} cannot say U{universe}: in {tell_tale.scale} it "
        "reaches to "
        f"{tell_tale.scale.highest}.",
        (),
        universe,
        tell_tale.slot,
        tell_tale.slot,
    )


def _on_reserved(
    show: Show, universe: int, reserved: tuple[int, ...], runs: Sequence[Span]
) -> Iterator[Finding]:
    for first, last, index, part in runs:
        hit = [slot for slot in reserved if first <= slot <= last]
        if hit:
            fixture = show.fixtures[index]
            slots = (
                f"slot {hit[0]}" if len(hit) == 1 else f"{len(hit)} reserved slots from {hit[0]}"
            )
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
