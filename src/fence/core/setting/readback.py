"""It says …: what a fixture shows, held against the plan, and what most likely lies behind a
difference.

A cause is a mistake made with an address that somebody meant: the planned one, one of an earlier
plan, or another fixture's. Every cause that leads to what is seen is named. The order is a
judgement (practice, not standard): the planned address misread comes before an old plan, an old
plan before a neighbour, one mistake before two.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from functools import cache

from fence.core.model.address import SLOTS
from fence.core.model.dates import written_day
from fence.core.model.errors import FenceError, SetterError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Mode, Setter, SetterKind
from fence.core.model.setter import address_of, switches_on
from fence.core.model.show import Show, slot_meaning
from fence.core.model.text import joined
from fence.core.setting.segments import turned_readings

MOST_CAUSES = 24
MOST_TOLD = 3


class Kind(StrEnum):
    """What lies behind a reading."""

    RIGHT = "right"
    UPSIDE_DOWN = "upside-down"
    WRONG_END = "wrong-end"
    INVERTED = "inverted"
    ONE_SWITCH = "one-switch"
    FIXED_SWITCHES = "fixed-switches"
    OFF_BY_ONE = "off-by-one"
    OFF_BY_PAGE = "off-by-page"
    NEIGHBOUR = "neighbour"
    EARLIER_PLAN = "earlier-plan"
    OTHER_MODE = "other-mode"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True)
class Earlier:
    """An address and mode that the plan had for the fixture, and until when (None where nobody
    knows)."""

    slot: int
    mode: str = ""
    until: datetime | None = None


@dataclass(frozen=True, slots=True)
class Reading:
    """What is seen at a fixture: the number, or the switches that are on; the mode, where it is
    seen ("" else).

    ``upright`` says that the number is meant as it reads upright, whichever way the display hangs,
    or (False) as it hangs; None where nobody asked.
    """

    says: int
    on: tuple[int, ...] | None = None
    mode: str = ""
    upright: bool | None = None


class Doubt(StrEnum):
    """What has to be asked before a reading is called right."""

    HOW_IT_HANGS = "how it hangs"
    HOW_IT_WAS_READ = "how it was read"


@dataclass(frozen=True, slots=True)
class Cause:
    """What may lie behind a reading. ``address`` is what the person meant to set or read, None
    where unknown.

    ``fixture`` is another one that the address belongs to. ``message`` says it in a sentence.
    """

    kind: Kind
    address: int | None
    message: str
    fixture: Fixture | None = None


@dataclass(frozen=True, slots=True)
class _Meant:
    """An address that somebody may have meant, whose it is, and how far-fetched that is."""

    address: int
    kind: Kind
    far: int
    fixture: Fixture | None = None
    until: datetime | None = None
    mode: str = ""


@dataclass(frozen=True, slots=True)
class _Mistake:
    """A way from the address that was meant to what is seen, and how far-fetched that is."""

    kind: Kind
    far: int
    words: str


def setter_of(show: Show, fixture: Fixture) -> Setter:
    """How the fixture's address is set; the usual menu where its chart is missing."""
    profile = show.profile_of(fixture)
    return profile.setter if profile else Setter()


def reading_of_switches(setter: Setter, on: Collection[int], mode: str = "") -> Reading:
    """The reading of a row of switches, those in ``on`` being on; 0 where they say no address.

    Raises ``SetterError`` for a fixture without switches and for a switch that is not there.
    """
    if setter.kind is not SetterKind.SWITCHES:
        raise SetterError("It has no address switches: type the number that it shows.")
    known = {*range(1, setter.switches + 1), *setter.fixed_on, *setter.fixed_off}
    if unknown := sorted(set(on) - known):
        raise SetterError(
            f"There is no switch {unknown[0]}: the switches are "
            f"{joined([str(n) for n in sorted(known)], most=16)}."
        )
    try:
        says = address_of(on, setter)
    except SetterError:
        says = 0
    return Reading(says, tuple(sorted(set(on))), mode)


def causes_of(
    show: Show,
    fixture: Fixture,
    reading: Reading,
    earlier: Sequence[Earlier] = (),
    *,
    part: int = 0,
) -> tuple[Cause, ...]:
    """What a reading most likely is, likeliest first; never empty.

    ``earlier`` are former plans of this fixture, the newest first. What was set before counts as
    one as well.
    """
    setter = setter_of(show, fixture)
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    wrong_mode = reading.mode not in ("", fixture.mode)
    over = turned_over(fixture, setter, reading)
    found: list[tuple[int, Cause]] = []

    @cache
    def ways(address: int) -> tuple[_Mistake, ...]:
        return tuple(_ways(setter, address, reading, over, turned=fixture.turned))

    for meant in _meant(show, fixture, earlier, part, ways):
        same_mode = wrong_mode and meant.mode == reading.mode
        for mistake in ways(meant.address):
            if wrong_mode and meant.kind is mistake.kind is Kind.RIGHT:
                continue
            if (
                mistake.kind is Kind.RIGHT
                or meant.kind is not Kind.NEIGHBOUR
                or meant.far <= NEXT_DOOR
            ):
                cause = _cause(fixture, planned, meant, mistake, reading)
                found.append((meant.far + mistake.far - 6 * same_mode, cause))
    found += _of_modes(show, fixture, reading, part)
    found += _of_pages(show, fixture, reading, part)
    # of what is equally far-fetched the one thought of first comes first
    told = dict.fromkeys(cause for _, cause in sorted(found, key=lambda entry: entry[0]))
    causes = tuple(told)[:MOST_CAUSES]
    return causes or (_unknown(fixture, planned, reading),)


NEXT_DOOR = 45
"""How far-fetched a neighbour may be for whom a second mistake (misread as well) is still thought
of."""


def _meant(
    show: Show,
    fixture: Fixture,
    earlier: Sequence[Earlier],
    part: int,
    ways: Callable[[int], Sequence[_Mistake]],
) -> Iterator[_Meant]:
    """The addresses that may have been meant, each with its likelihood. Of other fixtures only
    those from which there are ``ways`` to what is seen: rigs are large."""
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    if planned is not None:
        yield _Meant(planned, Kind.RIGHT, 0)
    seen = {planned}
    for place, plan in enumerate(_former(fixture, earlier, part)):
        if plan.slot not in seen:
            seen.add(plan.slot)
            yield _Meant(
                plan.slot, Kind.EARLIER_PLAN, 12 + min(place, 8), until=plan.until, mode=plan.mode
            )
    near = _near(show, fixture)
    for other in show.fixtures:
        slots = {
            entry.slot
            for entry in other.patch
            if entry.slot is not None and entry.slot != planned and ways(entry.slot)
        }
        if other.id == fixture.id or not slots:
            continue
        elsewhere = 60 if other.universe != fixture.universe else 52
        far = near.get(other.id, elsewhere)
        for slot in sorted(slots):
            yield _Meant(slot, Kind.NEIGHBOUR, far, other)


def _former(fixture: Fixture, earlier: Sequence[Earlier], part: int) -> Iterator[Earlier]:
    """Earlier plans: those that are told, and what was set, proven or planned when it was last
    read."""
    yield from earlier
    for patch, mode in (
        *([(fixture.set_to.patch, fixture.set_to.mode)] if fixture.set_to else []),
        *(
            [(fixture.read_back.planned, fixture.read_back.planned_mode)]
            if fixture.read_back
            else []
        ),
        *([(fixture.proven.patch, fixture.proven.mode)] if fixture.proven else []),
    ):
        if part < len(patch) and (slot := patch[part].slot) is not None:
            yield Earlier(slot, mode)


def _near(show: Show, fixture: Fixture) -> dict[int, int]:
    """The fixtures at its position, and how far-fetched it is to take one for the other: those next
    to it in the rig are the likeliest, and far ones are all the same. One of another universe is
    as far as anywhere, but for the three next to it."""
    here = [other for other in show.fixtures if other.position == fixture.position]
    place = [other.id for other in here].index(fixture.id)
    return {
        other.id: 38 + 2 * min(abs(at - place), 4)
        for at, other in enumerate(here)
        if other.universe == fixture.universe or abs(at - place) < 4
    }


def _ways(
    setter: Setter, meant: int, reading: Reading, over: Collection[int], *, turned: bool
) -> Iterator[_Mistake]:
    """The ways in which an address that was meant leads to what is seen; ``over`` is what that is
    turned over, which is what counts of a fixture that hangs ``turned``."""
    says = reading.says
    if reading.on is not None or setter.kind is SetterKind.SWITCHES:
        yield from _ways_of_switches(setter, meant, reading)
    elif says == meant and turned and over:
        hangs = " or ".join(f"{number:03d}" for number in sorted(over))
        words = f"{says:03d} as it hangs is {hangs}; read with the head turned it is {meant:03d}"
        yield _Mistake(Kind.UPSIDE_DOWN, 4, words)
    elif says == meant:
        yield _Mistake(Kind.RIGHT, 0, "")
    elif meant in over:
        yield _Mistake(Kind.UPSIDE_DOWN, 4, f"{says:03d} is {meant:03d} seen upside down")
    if abs(says - meant) == 1:
        words = (
            "counting from 0"
            if says < meant
            else "with the 1 that only those need which count from 0"
        )
        yield _Mistake(Kind.OFF_BY_ONE, 20, f"{says:03d} is {meant:03d} {words}")


def _ways_of_switches(setter: Setter, meant: int, reading: Reading) -> Iterator[_Mistake]:
    try:
        right = {number for number in switches_on(meant, setter) if number <= setter.switches}
    except SetterError:
        if reading.says == meant:
            yield _Mistake(Kind.RIGHT, 0, "")
        return
    if reading.on is None:
        try:
            seen = {
                number for number in switches_on(reading.says, setter) if number <= setter.switches
            }
        except FenceError:
            return
    else:
        seen = {number for number in reading.on if number <= setter.switches}
    every = set(range(1, setter.switches + 1))
    from_end = {setter.switches + 1 - number for number in right}
    odd = odd_switches(setter, reading)
    if seen == right:
        if not odd:
            yield _Mistake(Kind.RIGHT, 0, "")
        else:
            kind = Kind.ONE_SWITCH if len(odd) == 1 else Kind.FIXED_SWITCHES
            yield _Mistake(kind, 2, f"the address is {meant:03d}, but {_odd_words(odd)}")
        return
    if seen == from_end:
        yield _Mistake(Kind.WRONG_END, 6, f"these switches are {meant:03d} from the wrong end")
    if seen == every - right:
        yield _Mistake(
            Kind.INVERTED, 6, f"these switches are {meant:03d} with on and off taken for each other"
        )
    if seen == every - from_end:
        yield _Mistake(Kind.UPSIDE_DOWN, 6, f"these switches are {meant:03d} seen upside down")
    wrong = seen ^ right
    if len(wrong) == 1 and not odd:
        number = wrong.pop()
        off = "on" if number in seen else "off"
        yield _Mistake(
            Kind.ONE_SWITCH,
            24,
            f"switch {number} is {off}, and {meant:03d} needs it {'off' if off == 'on' else 'on'}",
        )


def odd_switches(setter: Setter, reading: Reading) -> tuple[tuple[int, bool], ...]:
    """The switches that carry no address and do not stand as they must, each with whether it must
    be on. With one of them wrong the fixture does not listen, or does something else than the desk
    says."""
    if reading.on is None or setter.kind is not SetterKind.SWITCHES:
        return ()
    needed = [(number, True) for number in setter.fixed_on if number not in reading.on]
    needed += [(number, False) for number in setter.fixed_off if number in reading.on]
    return tuple(sorted(needed))


def _odd_words(odd: Sequence[tuple[int, bool]]) -> str:
    """Which switches do not stand as they must, in words."""
    return joined(
        [f"switch {n} is {'off and must be on' if on else 'on and must be off'}" for n, on in odd],
        most=len(odd),
    )


def turned_over(fixture: Fixture, setter: Setter, reading: Reading) -> frozenset[int]:
    """The other numbers that a reading may stand for, since a display looks otherwise upside down:
    none where the fixture is noted as hanging upright, or it was said how it was read. A display
    that can be flipped in the menu may be, or may not be."""
    display = setter.kind is SetterKind.MENU and reading.on is None
    if not display or reading.upright or (fixture.upright and not fixture.turned):
        return frozenset()
    return frozenset(turned_readings(reading.says) - {reading.says})


def doubt_of(
    show: Show, fixture: Fixture, reading: Reading, causes: Sequence[Cause] = (), *, part: int = 0
) -> Doubt | None:
    """What has to be asked before a reading can be held against the plan; None where nothing must.

    What is noted of how a fixture hangs counts. Of one that hangs upside down a number may have
    been read with the head turned; of one of which nobody knows, what was read may be the planned
    number upside down, or another one that the first of the ``causes`` names.
    """
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    over = turned_over(fixture, setter_of(show, fixture), reading)
    if fixture.turned:
        return (
            Doubt.HOW_IT_WAS_READ
            if over and reading.says == planned and reading.upright is None
            else None
        )
    named = bool(causes) and causes[0].kind is Kind.UPSIDE_DOWN and causes[0].address in over
    return Doubt.HOW_IT_HANGS if planned in over or named else None


def is_right(show: Show, fixture: Fixture, reading: Reading, *, part: int = 0) -> bool:
    """Whether a reading says what the plan says, and nothing that was seen speaks against it: no
    other mode, no switch that stands otherwise than it must, no other number that the same sight
    may stand for."""
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    if (
        planned is None
        or reading.mode not in ("", fixture.mode)
        or doubt_of(show, fixture, reading, part=part)
    ):
        return False
    if odd_switches(setter_of(show, fixture), reading):
        return False
    return stands_really(show, fixture, reading, part=part) == planned


def _cause(
    fixture: Fixture, planned: int | None, meant: _Meant, mistake: _Mistake, reading: Reading
) -> Cause:
    """A mistake and the address that it began with, as a sentence."""
    whose = {
        Kind.RIGHT: "the planned address",
        Kind.EARLIER_PLAN: f"what the plan said until {written_day(meant.until)}"
        if meant.until
        else "what an earlier plan said",
        Kind.NEIGHBOUR: _whose(fixture, meant.fixture),
    }[meant.kind]
    if mistake.kind is not Kind.RIGHT:
        words = mistake.words[:1].upper() + mistake.words[1:]
        hangs = _hangs(fixture) if mistake.kind is Kind.UPSIDE_DOWN and reading.on is None else ""
        told = f"{words}; {meant.address:03d} is {whose}.{hangs}"
        return Cause(mistake.kind, meant.address, told, meant.fixture)
    if meant.kind is Kind.RIGHT:
        return Cause(Kind.RIGHT, meant.address, f"{fixture.label} says what the plan says.")
    advice = (
        " It was never re-set."
        if meant.kind is Kind.EARLIER_PLAN
        else " Were the two swapped? Look there next."
    )
    return Cause(
        meant.kind, meant.address, f"{reading.says:03d} is {whose}.{advice}", meant.fixture
    )


def _hangs(fixture: Fixture) -> str:
    """What is noted of how a fixture hangs, where its display was read."""
    if fixture.turned:
        return f" {fixture.label} hangs upside down."
    return f" Nobody has noted how {fixture.label} hangs."


def _whose(fixture: Fixture, other: Fixture | None) -> str:
    if other is None:
        return ""
    elsewhere = f" on U{other.universe}" if other.universe != fixture.universe else ""
    return f"{other.label}’s address{elsewhere}"


def _of_modes(
    show: Show, fixture: Fixture, reading: Reading, part: int
) -> Iterator[tuple[int, Cause]]:
    """It is in another mode; or its address was reckoned with the footprint of another mode."""
    profile = show.profile_of(fixture)
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    if reading.mode not in ("", fixture.mode):
        same = reading.says == planned
        words = f"It is in {reading.mode}; the plan has {fixture.mode}."
        words += " The address is right." if same else ""
        yield (1 if same else 10), Cause(Kind.OTHER_MODE, planned if same else None, words)
    if profile is None or planned is None or part:
        return
    for place, first in _run_before(show, fixture, planned):
        for mode in profile.modes:
            width = mode.parts[0].footprint
            if (
                mode.name != fixture.mode
                and reading.says == first + place * width
                and reading.says != planned
            ):
                words = (
                    f"{reading.says:03d} is where it would start if all before it were in "
                    f"{mode.name}"
                )
                yield (
                    30,
                    Cause(
                        Kind.OTHER_MODE,
                        planned,
                        f"{words}; the plan has {fixture.mode}, and so {planned:03d}.",
                    ),
                )


def _run_before(show: Show, fixture: Fixture, planned: int) -> Iterator[tuple[int, int]]:
    """How many of its kind stand before it back to back, and where each such run begins."""
    width = sum(show.footprints_of(fixture))
    starts = {
        f.start
        for f in show.fixtures
        if (f.profile, f.mode, f.universe) == (fixture.profile, fixture.mode, fixture.universe)
    }
    place, slot = 0, planned
    while width and slot - width in starts:
        place, slot = place + 1, slot - width
        yield place, slot


def _of_pages(
    show: Show, fixture: Fixture, reading: Reading, part: int
) -> Iterator[tuple[int, Cause]]:
    """It is off by pages of the desk, or by whole universes as boxes that number all slots through
    count them."""
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    if planned is None or reading.says == planned:
        return
    page = show.desk.page
    if page and abs(reading.says - planned) == page and 1 <= reading.says <= SLOTS:
        words = (
            f"{reading.says:03d} is one page of {page} "
            f"{'after' if reading.says > planned else 'before'} {planned:03d}."
        )
        yield 34, Cause(Kind.OFF_BY_PAGE, planned, words)
    universe = fixture.patch[part].universe or 1
    if reading.mode not in ("", fixture.mode):
        return
    if reading.says > SLOTS and reading.says == (universe - 1) * SLOTS + planned:
        words = (
            f"{reading.says} is U{universe} {planned:03d} counted through all universes: it "
            "is right, in another way."
        )
        yield 2, Cause(Kind.RIGHT, planned, words)


def _unknown(fixture: Fixture, planned: int | None, reading: Reading) -> Cause:
    shown = f"{reading.says:03d}" if reading.says else "no address"
    beside = (
        f"; the plan says {planned:03d}"
        if planned is not None
        else "; the plan has no address for it yet"
    )
    return Cause(
        Kind.UNKNOWN,
        None,
        f"It says {shown}{beside}. No usual mistake leads there: take it as mis-set.",
    )


def stands_really(show: Show, fixture: Fixture, reading: Reading, *, part: int = 0) -> int:
    """The number that the fixture holds by what is known: of one that hangs upside down it is what
    was read turned over, where that is a number; a number counted through all universes is the
    address that it comes to.

    While there is a doubt (see ``doubt_of``) it is what was read.
    """
    planned = fixture.patch[part].slot if part < len(fixture.patch) else None
    universe = (fixture.patch[part].universe if part < len(fixture.patch) else None) or 1
    if (
        planned is not None
        and reading.says > SLOTS
        and reading.says == (universe - 1) * SLOTS + planned
    ):
        return planned
    over = turned_over(fixture, setter_of(show, fixture), reading)
    if not fixture.turned or not over or doubt_of(show, fixture, reading, part=part):
        return reading.says
    return planned if planned in over else max(over, key=lambda number: (number <= SLOTS, number))


def would_do(
    show: Show, fixture: Fixture, says: int, mode_name: str = "", *, part: int = 0
) -> tuple[str, ...]:
    """What the fixture would do if it stayed at ``says``: whose channels would move it, and what
    would lie idle."""
    if not 1 <= says <= SLOTS or part >= len(fixture.patch):
        return ()
    mode = show.modes.get((fixture.profile, mode_name or fixture.mode))
    universe = fixture.patch[part].universe
    if (
        mode is None
        or universe is None
        or part >= len(mode.parts)
        or not mode.parts[part].footprint
    ):
        return ()
    width = mode.parts[part].footprint
    sharers = {sharer.id for sharer in show.sharers_of(fixture)}
    sentences = []
    for placed in show.runs_in(universe):
        first, last = max(says, placed.run.first), min(says + width - 1, placed.run.last)
        if first > last or placed.fixture.id in sharers:
            continue
        theirs = show.mode_of(placed.fixture)
        if theirs is None:
            continue
        heard = _meanings(
            theirs, placed.part, range(first - placed.run.first, last - placed.run.first + 1)
        )
        own = _meanings(mode, part, range(first - says, last - says + 1))
        sentences.append(f"It would answer to {placed.fixture.label}’s {heard} with its {own}.")
    planned = fixture.patch[part].slot
    if planned is not None and planned != says:
        sentences.append(f"At {planned:03d}, where the desk reaches for it, nothing would answer.")
    if says + width - 1 > SLOTS:
        sentences.append(
            f"Its last {says + width - 1 - SLOTS} channels would lie past the end of the universe."
        )
    return tuple(
        sentences[:MOST_TOLD]
        if len(sentences) <= MOST_TOLD
        else (*sentences[: MOST_TOLD - 1], sentences[-1])
    )


def _meanings(mode: Mode, part: int, offsets: range) -> str:
    return joined([slot_meaning(mode, part, offset) for offset in offsets], most=3, shown=2)
