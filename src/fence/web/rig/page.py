"""The rig as values: the lines of the list, where a run would land, what the find box finds."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from wtforms.fields.choices import SelectChoice

from fence.core.checks import OF_THE_RECORD, RULES, Analysis, Finding, Severity, Verdict, analyse
from fence.core.model.address import SLOTS, Address, parse_address
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.space import first_from, free_bits
from fence.core.model.standing import State, state_of
from fence.core.model.text import counted, whole_number
from fence.store.shows import SavedShow
from fence.web.address.drawing import FenceDrawing
from fence.web.address.proposed import draw_then
from fence.web.address.rails import asked_rails

ROWS_SHOWN = 140


LANDINGS_SHOWN = 24


@dataclass(frozen=True, slots=True)
class RigLine:
    """A fixture in the list."""

    fixture: Fixture
    kind: str
    footprint: int | None
    worst: Finding | None
    stands: State


SORTS: dict[str, Callable[[RigLine], tuple[object, ...]]] = {
    "rig": lambda line: (),
    "number": lambda line: (line.fixture.number is None, line.fixture.number or 0),
    "label": lambda line: (line.fixture.label.casefold(),),
    "fixture": lambda line: (line.kind.casefold(), line.fixture.mode),
    "channels": lambda line: (line.footprint is None, line.footprint or 0),
    "position": lambda line: (line.fixture.position == "", line.fixture.position.casefold()),
    "address": lambda line: (
        line.fixture.start is None,
        line.fixture.universe or 0,
        line.fixture.start or 0,
    ),
    "set": lambda line: (list(State).index(line.stands),),
    "state": lambda line: (line.worst is None, line.worst.severity.rank if line.worst else 0),
}


COLUMNS = (
    ("number", "No."),
    ("label", "Label"),
    ("fixture", "Fixture and mode"),
    ("channels", "Ch."),
    ("position", "Position"),
    ("address", "Address"),
    ("set", "Set"),
    ("state", "State"),
)


def lines_of(
    show: Show, analysis: Analysis, fixtures: Sequence[Fixture] | None = None
) -> list[RigLine]:
    """The lines of the list, in rig order; of all fixtures, or of some."""
    lines = []
    for fixture in show.fixtures if fixtures is None else fixtures:
        profile, mode = show.profile_of(fixture), show.mode_of(fixture)
        of_the_plan = (
            found
            for found in analysis.by_fixture.get(fixture.id, ())
            if found.rule not in OF_THE_RECORD
        )
        worst = next(of_the_plan, None)
        lines.append(
            RigLine(
                fixture,
                profile.title if profile else "?",
                mode.footprint if mode else None,
                worst,
                state_of(show, fixture),
            )
        )
    return lines


def matches(line: RigLine, words: str, position: str) -> bool:
    """Whether a line has all the words: anywhere in its text, a number only as a whole one ("4" is
    not 41)."""
    fixture = line.fixture
    if position and fixture.position != position:
        return False
    if not words:
        return True
    text = " ".join(
        (
            str(fixture.number or ""),
            fixture.label,
            line.kind,
            fixture.mode,
            fixture.position,
            f"u{fixture.universe} {fixture.start or ''}",
            fixture.share,
            fixture.note,
            line.stands,
            f"{line.worst.rule} {RULES[line.worst.rule].title}" if line.worst else "clear",
        )
    ).casefold()
    tokens = set(re.split(r"\W+", text))
    return all(word in (tokens if word.isdigit() else text) for word in words.split())


def mode_choices(show: Show) -> list[SelectChoice]:
    """The modes that picked fixtures can take, by type."""
    used = {fixture.profile for fixture in show.fixtures}
    return [SelectChoice("", "as it is")] + [
        SelectChoice(mode.name, f"{mode.name} ({mode.footprint} ch)", optgroup=profile.title)
        for profile in show.profiles
        if profile.id in used
        for mode in profile.modes
    ]


@dataclass(frozen=True, slots=True)
class AddPreview:
    """Where a run of new fixtures would land."""

    added: tuple[Fixture, ...]
    more: int
    without_room: int
    before: Verdict
    after: Verdict
    problems: tuple[Finding, ...]
    drawing: FenceDrawing | None


def preview_of(saved: SavedShow, after: Show) -> AddPreview:
    """Where the fixtures that ``after`` has more would stand."""
    before, then = saved.analysis, analyse(after)
    added = [fixture for fixture in after.fixtures if fixture.id not in saved.show.fixture_by_id]
    ids = {fixture.id for fixture in added}
    new = tuple(finding for finding in then.findings if ids & set(finding.fixtures))
    runs = [placed for fixture in added for placed in after.runs_of(fixture)]
    drawing = None
    if runs:
        drawing = draw_then(saved.show, after, runs[0].run.universe, asked_rails())
    lost = sum(
        1 for fixture in added if fixture.start is None and any(after.footprints_of(fixture))
    )
    return AddPreview(
        added=tuple(added[:LANDINGS_SHOWN]),
        more=max(0, len(added) - LANDINGS_SHOWN),
        without_room=lost,
        before=before.verdict,
        after=then.verdict,
        problems=tuple(finding for finding in new if finding.severity is not Severity.NOTE)[:6],
        drawing=drawing,
    )


@dataclass(frozen=True, slots=True)
class Found:
    """What the find box offers: a fixture, or a free slot; where it is on the fence."""

    label: str
    where: str
    note: str
    universe: int | None
    fixture: int | None = None
    part: int = 0


MOST_UNIVERSES = 64


def found_by(show: Show, words: str) -> list[Found]:
    """What words in the find box mean, the surest first: a label, a number, an address, a slot in
    every universe."""
    if not words:
        return []
    wanted = words.casefold()
    exact = [f for f in show.fixtures if str(f.number) == words or f.label.casefold() == wanted]
    within = [f for f in show.fixtures if wanted in f"{f.label} {f.position}".casefold()]
    found = [_found_fixture(f) for f in exact]
    for address in _meant(show, words):
        here = [
            p for p in show.runs_in(address.universe) if p.run.first <= address.slot <= p.run.last
        ]
        found += [_found_fixture(placed.fixture, placed.part) for placed in here]
        if not here:
            found.append(_free_slot(show, address))
    return list(dict.fromkeys([*found, *map(_found_fixture, within)]))


def _found_fixture(fixture: Fixture, part: int = 0) -> Found:
    entry = fixture.patch[part]
    return Found(fixture.label, str(entry), fixture.position, entry.universe, fixture.id, part)


def _meant(show: Show, words: str) -> list[Address]:
    """The addresses that words can mean: a slot of each universe for a bare number, else the one
    that is typed."""
    number = whole_number(words)
    if number is not None and 1 <= number <= SLOTS:
        return [Address(universe, number) for universe in show.universe_numbers[:MOST_UNIVERSES]]
    try:
        return [parse_address(words)]
    except FenceError:
        return []


def _free_slot(show: Show, address: Address) -> Found:
    free = free_bits(show, address.universe)
    if not free >> (address.slot - 1) & 1:
        kept = address.slot in show.reserved_in(address.universe)
        return Found(
            "Reserved" if kept else "Not sent by the desk", str(address), "", address.universe
        )
    end = first_from(~free, address.slot) or SLOTS + 1
    room = min(end, SLOTS + 1) - address.slot
    return Found("Free", str(address), f"{counted(room, 'slot')} free from here", address.universe)
