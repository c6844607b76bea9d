"""The Set step as values: the walk, the card of one fixture, what it says."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from flask import url_for

from fence.core.lines.wireless import link_to
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile, SetterKind
from fence.core.model.record import Prep, Proof, ReadBack, SetTo, Witness
from fence.core.model.setter import Misreading, Switch, as_seen, misreadings, row_of, switches_on
from fence.core.model.show import Position, Show
from fence.core.model.standing import AGAIN, DONE, State, stands_words, state_of
from fence.core.model.text import joined, whole_number
from fence.core.setting.prep import Step, cautions_for, steps_for
from fence.core.setting.readback import (
    Cause,
    Doubt,
    Earlier,
    Reading,
    causes_of,
    doubt_of,
    is_right,
    setter_of,
    stands_really,
    would_do,
)
from fence.core.setting.rounds import alone
from fence.core.setting.segments import from_below
from fence.core.setting.walk import Place, Station, Walk, height_words, walk
from fence.web.address.drawing import hue_of
from fence.web.set.drawing import Display, draw_display

CARDS_AHEAD = 12
"""Cards after the open one that a phone keeps, for when it is out of reach."""
ROWS_SHOWN = 120
"""Fixtures listed on the walk. Positions beyond are folded to one line each."""


@dataclass(frozen=True, slots=True)
class Row:
    """A fixture on the walk, as a line of the list."""

    fixture: Fixture
    state: State
    number: str
    universe: str
    under: str
    hue: int


@dataclass(frozen=True, slots=True)
class PlaceRows:
    """A position on the walk; ``rows`` is empty where it is folded."""

    place: Place
    height: str
    rows: tuple[Row, ...]
    folded: bool


@dataclass(frozen=True, slots=True)
class WalkPage:
    """The walk through a show or one position."""

    walk: Walk
    first: tuple[Row, ...]
    more_first: int
    places: tuple[PlaceRows, ...]
    next: Fixture | None
    keep: tuple[Fixture, ...]
    bars: tuple[tuple[str, float], ...]


def walk_page(show: Show, at: str | None) -> WalkPage:
    """Put the list together: those to go back to, then the positions until the page is full."""
    found = walk(show, at)
    first = [_row(show, stop, place=True) for stop in found.first[:ROWS_SHOWN]]
    room = ROWS_SHOWN - len(first)
    again = {stop.fixture.id for stop in found.first}
    places: list[PlaceRows] = []
    for place in found.places:
        stops = [stop for stop in place.stops if stop.fixture.id not in again]
        folded = len(stops) > room and bool(places)
        rows = () if folded else tuple(_row(show, stop) for stop in stops[: ROWS_SHOWN * 2])
        room -= len(rows)
        places.append(PlaceRows(place, height_words(place.position), rows, folded))
    standing = found.standing
    shares = (
        ("proven", standing.proven),
        ("set", standing.done - standing.proven),
        ("again", standing.again),
    )
    bars = tuple((name, 100 * count / standing.of) for name, count in shares if standing.of)
    return WalkPage(
        found,
        tuple(first),
        len(found.first) - len(first),
        tuple(places),
        found.after(None),
        found.ahead(None, CARDS_AHEAD),
        bars,
    )


def _row(show: Show, stop: Station, *, place: bool = False) -> Row:
    fixture = stop.fixture
    profile = show.profile_of(fixture)
    under = [
        fixture.position if place else "",
        profile.setter.kind if profile else "",
        fixture.mode,
    ]
    slots = "+".join(f"{entry.slot:03d}" for entry in fixture.patch if entry.slot is not None)
    universe = f"U{fixture.universe}" if fixture.universe else ""
    return Row(
        fixture,
        stop.state,
        slots,
        universe,
        " · ".join(filter(None, under)),
        hue_of(show, fixture.position),
    )


@dataclass(frozen=True, slots=True)
class PartCard:
    """A part of a fixture as it is set: its address and how that looks at the fixture."""

    name: str
    patch: Patch
    switches: tuple[Switch, ...]
    on: str
    display: Display | None
    display_turned: Display | None
    below: str
    misread: tuple[Misreading, ...]
    digits: str
    problem: str


@dataclass(frozen=True, slots=True)
class Known:
    """One of the facts that are kept of a fixture, in words."""

    what: str
    says: str
    by: Witness
    reason: str = ""


@dataclass(frozen=True, slots=True)
class CardPage:
    """All that is shown of one fixture."""

    fixture: Fixture
    profile: Profile | None
    kind: SetterKind
    position: Position | None
    height: str
    state: State
    stands: str
    place: int
    of: int
    parts: tuple[PartCard, ...]
    steps: tuple[Step, ...]
    cautions: tuple[str, ...]
    facts: tuple[Known, ...]
    next: Fixture | None
    alone: bool
    done: bool
    again: bool
    hue: int
    seen_patch: str
    way: int
    keep: tuple[Fixture, ...]
    wireless: str

    @property
    def first_steps(self) -> tuple[Step, ...]:
        """What it needs before its address counts: that it listens, and the mode."""
        return tuple(step for step in self.steps if step.step in (Prep.LISTENS, Prep.MODE))

    @property
    def other_steps(self) -> tuple[Step, ...]:
        """What else is done before it is hung."""
        return tuple(step for step in self.steps if step.step not in (Prep.LISTENS, Prep.MODE))

    @property
    def can_be_set(self) -> bool:
        """Whether the plan says enough to set it."""
        return self.state is not State.UNPLANNED


def card_page(show: Show, fixture: Fixture, at: str | None) -> CardPage:
    """Put the card of one fixture together."""
    profile = show.profile_of(fixture)
    position = next((known for known in show.positions if known.name == fixture.position), None)
    here = [other.id for other in show.fixtures if other.position == fixture.position]
    state = state_of(show, fixture)
    return CardPage(
        fixture=fixture,
        profile=profile,
        kind=setter_of(show, fixture).kind,
        position=position,
        height=height_words(position) if position else "",
        state=state,
        stands=stands_words(fixture),
        place=here.index(fixture.id) + 1,
        of=len(here),
        parts=tuple(_parts(show, fixture)),
        steps=steps_for(show, fixture),
        cautions=cautions_for(show, fixture, position),
        facts=tuple(_facts(fixture)),
        next=walk(show, at).after(fixture.id),
        alone=alone(show, fixture),
        done=state in DONE,
        again=state in AGAIN,
        hue=hue_of(show, fixture.position),
        seen_patch=patch_words(fixture.patch),
        way=show.way_in.get(fixture.id, 0),
        keep=walk(show, at).ahead(fixture.id, CARDS_AHEAD),
        wireless=_wireless(show, fixture),
    )


def _wireless(show: Show, fixture: Fixture) -> str:
    """Whom it listens to, where its signal comes by wireless."""
    held = link_to(show, fixture.id)
    if held is None:
        return ""
    universe = f", U{held[0].line.universe}" if held[0].line.universe else ""
    hears = f" on link channel {held[1].hears}" if held[1].hears else ""
    return (
        f"Wireless from {held[0].name}{hears}{universe}. Unlink it from an old transmitter first."
    )


def _parts(show: Show, fixture: Fixture) -> list[PartCard]:
    mode, setter = show.mode_of(fixture), setter_of(show, fixture)
    parts = []
    for place, entry in enumerate(fixture.patch):
        part = mode.parts[place] if mode and place < len(mode.parts) else None
        if part is not None and not part.footprint:
            continue
        name = (part.name if part else "") or (
            f"part {place + 1}" if len(fixture.patch) > 1 else ""
        )
        if entry.slot is None:
            parts.append(PartCard(name, entry, (), "", None, None, "", (), "", ""))
            continue
        row: tuple[Switch, ...] = ()
        misread: tuple[Misreading, ...] = ()
        on = problem = ""
        lowest, highest = setter.settable
        if not lowest <= entry.slot <= highest:
            problem = (
                f"It cannot be set to {entry.slot:03d}: {lowest} to {highest} can be set on "
                "it. Change the plan."
            )
        elif setter.kind is SetterKind.SWITCHES:
            row = as_seen(entry.slot, setter, turned=fixture.turned)
            on = joined([str(number) for number in switches_on(entry.slot, setter)], most=16)
            misread = misreadings(entry.slot, setter)
        digits, before = f"{entry.slot:03d}", setter.shown_before
        shown = setter.kind in (SetterKind.MENU, SetterKind.RDM) and not problem
        parts.append(
            PartCard(
                name,
                entry,
                row,
                on,
                draw_display(digits, before=before) if shown else None,
                draw_display(digits, turned=True, before=before) if shown else None,
                from_below(digits) or "",
                misread,
                digits,
                problem,
            )
        )
    return parts


def _facts(fixture: Fixture) -> list[Known]:
    found = []
    for what, fact in (
        ("Set", fixture.set_to),
        ("Read back", fixture.read_back),
        ("Proven", fixture.proven),
    ):
        if isinstance(fact, SetTo | Proof):
            mode = f", {fact.mode}" if fact.mode != fixture.mode else ""
            found.append(Known(what, " + ".join(map(str, fact.patch)) + mode, fact.by))
        elif isinstance(fact, ReadBack):
            numbers = " + ".join(
                "not read" if number is None else f"{number:03d}" for number in fact.says
            )
            found.append(
                Known(what, numbers + (f", {fact.mode}" if fact.mode else ""), fact.by, fact.reason)
            )
    return found


def patch_words(patch: Sequence[Patch]) -> str:
    """A patch as a form carries it along: what the person at the fixture has seen."""
    return "+".join(f"{entry.universe or ''}.{entry.slot or ''}" for entry in patch)


def patch_of(words: str) -> tuple[Patch, ...]:
    """The patch that a form carries; ``EditError`` where it is none."""
    entries = []
    for piece in words[:400].split("+"):
        universe, dot, slot = piece.partition(".")
        if not dot:
            raise EditError("This form does not say what was set: load the card again.")
        entries.append(Patch(whole_number(universe), whole_number(slot)))
    return tuple(entries)


@dataclass(frozen=True, slots=True)
class SaysPage:
    """What a fixture says beside what the plan says, and what lies behind it."""

    reading: Reading | None
    note: str
    planned: Display | None
    seen: Display | None
    causes: tuple[Cause, ...]
    doing: tuple[str, ...]
    real: int
    right: bool
    doubt: Doubt | None
    can_plan: bool
    tap: tuple[Switch, ...]
    on: str


def says_page(
    show: Show,
    fixture: Fixture,
    reading: Reading | None,
    problem: str,
    note: str,
    earlier: Sequence[Earlier],
    part: int,
) -> SaysPage:
    """Hold a reading against the plan; without one there is only the question."""
    setter = setter_of(show, fixture)
    tap: tuple[Switch, ...] = ()
    on = reading.on if reading and reading.on is not None else setter.fixed_on
    if setter.kind is SetterKind.SWITCHES:
        tap = row_of(on, setter, turned=fixture.turned)
    planned = fixture.patch[part].slot
    causes = causes_of(show, fixture, reading, earlier, part=part) if reading else ()
    says = reading.says if reading else 0
    real = stands_really(show, fixture, reading, part=part) if reading else 0
    right = reading is not None and is_right(show, fixture, reading, part=part)
    segments = setter.kind is not SetterKind.SWITCHES
    return SaysPage(
        reading=reading,
        note=note,
        planned=draw_display(f"{planned:03d}", before=setter.shown_before)
        if planned and segments
        else None,
        seen=draw_display(f"{says:03d}", before=setter.shown_before)
        if reading and segments
        else None,
        causes=causes,
        doing=would_do(show, fixture, real, reading.mode, part=part)
        if reading and not right
        else (),
        real=real,
        right=right,
        doubt=doubt_of(show, fixture, reading, causes, part=part) if reading else None,
        can_plan=bool(reading) and not right and _holds(show, fixture, real),
        tap=tap,
        on=",".join(map(str, on)),
    )


def _holds(show: Show, fixture: Fixture, says: int) -> bool:
    lowest, highest = setter_of(show, fixture).settable
    return lowest <= says <= highest and fixture.universe is not None


def pages_to_keep(show_id: int, fixtures: Sequence[Fixture], query: dict[str, str]) -> list[str]:
    """The cards of fixtures, and where one says what they say, as a phone keeps them for when it is
    out of reach."""
    return [
        url_for(endpoint, show_id=show_id, fixture_id=fixture.id, **query)  # type: ignore[arg-type]
        for fixture in fixtures
        for endpoint in ("card.index", "says.index")
    ]
