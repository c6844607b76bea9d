"""The Address page as values: the fence, the picked fixture, its problems, a proposal before it is made."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field

from fence.core.addressing.mends import Mend, mends_for
from fence.core.changes.difference import difference
from fence.core.checks import RULES, Analysis, Finding, Rule, Verdict, analyse, news_of_the_plan
from fence.core.modes.left import LeftInMode, left_in_mode
from fence.core.setting.walk import again
from fence.core.words.address import Run
from fence.core.words.errors import SetterError
from fence.core.words.fixture import Fixture
from fence.core.words.patch import Patch
from fence.core.words.profile import Mode, Profile, SetterKind
from fence.core.words.setter import Misreading, Switch, as_seen, misreadings
from fence.core.words.sharing import buttons_left
from fence.core.words.show import Show, Universe, slot_meaning
from fence.core.words.space import starts_one_by_one
from fence.core.words.standing import State, stands_words, state_of
from fence.store.shows import SavedShow
from fence.web.address.drawing import FenceDrawing, draw_fence
from fence.web.address.rails import WIDE, Rails

SLOTS_LISTED = 48
MOVES_LISTED = 12


@dataclass(frozen=True, slots=True)
class Problem:
    """A finding about the picked fixture, with the ways out."""

    finding: Finding
    rule: Rule
    mends: tuple[Mend, ...]
    chosen: bool


@dataclass(frozen=True, slots=True)
class PartLine:
    """A part of the picked fixture: its name, where it is, how many channels it takes."""

    index: int
    name: str
    patch: Patch
    footprint: int

    @property
    def run(self) -> Run | None:
        """The slots it takes, if it has an address."""
        if self.patch.universe is None or self.patch.slot is None:
            return None
        return Run(self.patch.universe, self.patch.slot, self.footprint)


@dataclass(frozen=True, slots=True)
class SlotLine:
    """A slot of the picked fixture and what it does."""

    slot: int
    meaning: str
    default: int


@dataclass(frozen=True, slots=True)
class SwitchView:
    """The switches of the picked fixture as they must stand, and how they are misread."""

    row: tuple[Switch, ...]
    turned: bool
    on_is_up: bool
    misread: tuple[Misreading, ...]
    problem: str


@dataclass(frozen=True, slots=True)
class Picked:
    """The picked fixture with everything the side panel says of it."""

    fixture: Fixture
    profile: Profile | None
    mode: Mode | None
    part: PartLine
    parts: tuple[PartLine, ...]
    problems: tuple[Problem, ...]
    sharers: tuple[Fixture, ...]
    slots: tuple[SlotLine, ...]
    more_slots: int
    switches: SwitchView | None
    left: tuple[LeftInMode, ...]
    state: State
    stands: str


@dataclass(frozen=True, slots=True)
class MoveLine:
    """One fixture of a proposal: where it is and where it would be."""

    label: str
    before: str
    after: str
    why: str


@dataclass(frozen=True, slots=True)
class Block:
    """Several picked fixtures: who, from where to where, and what sharing one address would give up and gain."""

    fixtures: tuple[Fixture, ...]
    channels: int
    universes: tuple[int, ...]
    alike: bool
    saved: int
    first: Patch | None


@dataclass(frozen=True, slots=True)
class Proposal:
    """An edit that is shown before it is made."""

    title: str
    why: str
    before: Verdict
    after: Verdict
    moves: tuple[MoveLine, ...]
    more_moves: int
    new_findings: tuple[Finding, ...]
    again: str
    action: str
    fields: tuple[tuple[str, str], ...]
    button: str
    alternatives: tuple[tuple[str, str], ...]
    repairable: bool


@dataclass(frozen=True, slots=True)
class RoomLine:
    """How many more fixtures of a mode would fit into the universe."""

    title: str
    footprint: int
    room: int


@dataclass(frozen=True, slots=True)
class Board:
    """The Address page."""

    saved: SavedShow
    universe: Universe
    drawing: FenceDrawing
    drawing_then: FenceDrawing | None
    picked: Picked | None
    block: Block | None
    proposal: Proposal | None
    unaddressed: tuple[Fixture, ...]
    rooms: tuple[RoomLine, ...]
    previous: int | None
    next: int | None
    stops: int
    stops_here: int
    next_finding: Finding | None
    previous_finding: Finding | None


@dataclass(frozen=True, slots=True)
class Asked:
    """What the page was asked to show."""

    universe: int | None = None
    pick: int | None = None
    part: int = 0
    finding: str = ""
    turned: bool = False
    also: tuple[int, ...] = ()
    on: Rails = WIDE

    @property
    def picks(self) -> tuple[int, ...]:
        """The ids of all picked fixtures, the first picked first."""
        return tuple(dict.fromkeys((*((self.pick,) if self.pick else ()), *self.also)))

    @property
    def also_words(self) -> str:
        """The further picks as they stand in an address of a page; empty for none."""
        return ",".join(map(str, self.also))


def make_board(saved: SavedShow, analysis: Analysis, asked: Asked, proposed: ProposedEdit | None = None) -> Board:
    """Put the page together. What was asked for and is not there (any more) is left out."""
    show = saved.show
    then = proposed.after if proposed else show
    fixture = show.fixture_by_id.get(asked.pick or 0)
    universe = _universe_for(then, asked, fixture)
    picked = _pick(show, analysis, fixture, asked) if fixture else None
    block = _block(show, asked)
    held = {sharer.id for i in asked.picks if i in show.fixture_by_id for sharer in show.sharers_of(show.fixture(i))}
    drawing = draw_fence(show, universe.number, analysis.findings, picked=held, on=asked.on)
    drawing_then = draw_then(show, then, universe.number, asked.on, held) if proposed else None
    numbers = [entry.number for entry in show.universes] or [universe.number]
    place = numbers.index(universe.number) if universe.number in numbers else 0
    return Board(
        saved=saved,
        universe=universe,
        drawing=drawing,
        drawing_then=drawing_then,
        picked=picked,
        block=block,
        proposal=_proposal(show, analysis, proposed) if proposed else None,
        unaddressed=_unaddressed(show),
        rooms=() if picked else _rooms(show, universe.number),
        previous=numbers[place - 1] if place > 0 else None,
        next=numbers[place + 1] if place + 1 < len(numbers) else None,
        stops=analysis.verdict.stops,
        stops_here=analysis.stops_in.get(universe.number, 0),
        next_finding=_finding_beside(analysis, universe.number, fixture, asked, 1),
        previous_finding=_finding_beside(analysis, universe.number, fixture, asked, -1),
    )


def _block(show: Show, asked: Asked) -> Block | None:
    fixtures = tuple(show.fixture_by_id[i] for i in asked.picks if i in show.fixture_by_id)
    if len(fixtures) < 2:
        return None
    kinds = {(fixture.profile, fixture.mode) for fixture in fixtures}
    each = sum(show.footprints_of(fixtures[0]))
    starts = [entry for fixture in fixtures for entry in fixture.patch if entry.address]
    return Block(
        fixtures,
        sum(sum(show.footprints_of(fixture)) for fixture in fixtures),
        tuple(sorted({entry.universe for entry in starts if entry.universe})),
        len(kinds) == 1 and bool(each),
        each * (len(fixtures) - 1),
        min(starts, key=lambda entry: (entry.universe or 0, entry.slot or 0), default=None),
    )


def _finding_beside(
    analysis: Analysis, universe: int, fixture: Fixture | None, asked: Asked, step: int
) -> Finding | None:
    """The finding after (or before) the one that is shown, through all universes and around."""
    found = sorted(analysis.findings, key=lambda f: (f.universe or 0, f.first or 0, f.key))
    if not found:
        return None
    keys = [finding.key for finding in found]
    if asked.finding in keys:
        return found[(keys.index(asked.finding) + step) % len(found)]
    here = (universe, (fixture.start or 0) if fixture else 0, "")
    later = [n for n, f in enumerate(found) if (f.universe or 0, f.first or 0, "") >= here]
    if step > 0:
        return found[later[0]] if later else found[0]
    return found[(later[0] if later else len(found)) - 1]


def _universe_for(show: Show, asked: Asked, fixture: Fixture | None) -> Universe:
    """The universe asked for, else that of the picked fixture, else the first."""
    number = asked.universe
    if number is None and fixture is not None:
        number = fixture.patch[min(asked.part, len(fixture.patch) - 1)].universe
    if number in show.universe_by_number:
        return show.universe_by_number[number]
    return show.universes[0] if show.universes else Universe(1)


def _unaddressed(show: Show) -> tuple[Fixture, ...]:
    return tuple(
        fixture
        for fixture in show.fixtures
        if any(entry.slot is None for entry in fixture.patch)
        and any(
            footprint and patch.slot is None
            for footprint, patch in zip(show.footprints_of(fixture), fixture.patch, strict=False)
        )
    )


def _rooms(show: Show, universe: int) -> tuple[RoomLine, ...]:
    buttons = buttons_left(show)
    in_use = dict.fromkeys((fixture.profile, fixture.mode) for fixture in show.fixtures)
    lines = []
    for profile_id, mode_name in in_use:
        mode, profile = show.modes.get((profile_id, mode_name)), show.profile_by_id.get(profile_id)
        if mode and profile and mode.footprint and len(mode.parts) == 1:
            room = len(starts_one_by_one(show, universe, mode.footprint, setter=profile.setter))
            room = room if buttons is None else min(room, buttons)
            lines.append(RoomLine(f"{profile.title}, {mode.name}", mode.footprint, room))
    return tuple(sorted(lines, key=lambda line: line.title)[:24])


# ---- the picked fixture


def _pick(show: Show, analysis: Analysis, fixture: Fixture, asked: Asked) -> Picked:
    mode, profile = show.mode_of(fixture), show.profile_of(fixture)
    footprints = show.footprints_of(fixture) or (0,)
    parts = tuple(
        PartLine(index, mode.parts[index].name if mode else "", patch, footprint)
        for index, (footprint, patch) in enumerate(zip(footprints, fixture.patch, strict=False))
    )
    part = parts[min(max(asked.part, 0), len(parts) - 1)]
    problems = tuple(
        Problem(finding, RULES[finding.rule], tuple(mends_for(show, finding)), finding.key == asked.finding)
        for finding in analysis.by_fixture.get(fixture.id, [])
    )
    slots = _slots(mode, part)
    return Picked(
        fixture=fixture,
        profile=profile,
        mode=mode,
        part=part,
        parts=parts,
        problems=tuple(sorted(problems, key=lambda problem: not problem.chosen)),
        sharers=tuple(other for other in show.sharers_of(fixture) if other.id != fixture.id),
        slots=slots[:SLOTS_LISTED],
        more_slots=max(0, len(slots) - SLOTS_LISTED),
        switches=_switches(profile, part, asked.turned),
        left=_left(show, fixture, profile),
        state=state_of(show, fixture),
        stands=stands_words(fixture),
    )


def _left(show: Show, fixture: Fixture, profile: Profile | None) -> tuple[LeftInMode, ...]:
    """What each other mode would do, if the fixture were left in it."""
    modes = profile.modes if profile else ()
    return tuple(found for mode in modes if (found := left_in_mode(show, fixture, mode.name)))


def _slots(mode: Mode | None, part: PartLine) -> tuple[SlotLine, ...]:
    if mode is None or part.run is None:
        return ()
    channels = mode.parts[part.index].channels
    return tuple(
        SlotLine(
            part.run.first + offset,
            slot_meaning(mode, part.index, offset),
            channels[offset].default if channels else 0,
        )
        for offset in range(part.footprint)
    )


def _switches(profile: Profile | None, part: PartLine, turned: bool) -> SwitchView | None:
    if profile is None or profile.setter.kind is not SetterKind.SWITCHES or part.patch.slot is None:
        return None
    setter, slot = profile.setter, part.patch.slot
    try:
        row = as_seen(slot, setter, turned=turned)
        return SwitchView(row, turned, setter.on_is_up, misreadings(slot, setter), "")
    except SetterError as error:
        return SwitchView((), turned, setter.on_is_up, (), str(error))


# ---- proposals


@dataclass(frozen=True, slots=True)
class ProposedEdit:
    """An edit to be shown: the show it would make, its words, and the form that makes it."""

    after: Show
    title: str
    why: str
    action: str
    fields: tuple[tuple[str, str], ...]
    button: str
    reasons: Mapping[int, str] = field(default_factory=dict)
    alternatives: tuple[tuple[str, str], ...] = ()
    repairable: bool = False


def _proposal(show: Show, analysis: Analysis, proposed: ProposedEdit) -> Proposal:
    then = analyse(proposed.after)
    moves = [
        MoveLine(change.after.label, str(old), str(new), proposed.reasons.get(change.after.id, ""))
        for change in difference(show, proposed.after).fixtures
        if change.before and change.after
        for old, new in zip(change.before.patch, change.after.patch, strict=False)
        if old != new
    ]
    return Proposal(
        title=proposed.title,
        why=proposed.why,
        before=analysis.verdict,
        after=then.verdict,
        moves=tuple(moves[:MOVES_LISTED]),
        more_moves=max(0, len(moves) - MOVES_LISTED),
        new_findings=news_of_the_plan(analysis, then)[:5],
        again=again(show, proposed.after).words,
        action=proposed.action,
        fields=proposed.fields,
        button=proposed.button,
        alternatives=proposed.alternatives,
        repairable=proposed.repairable,
    )


def draw_then(show: Show, after: Show, universe: int, on: Rails, picked: Collection[int] = ()) -> FenceDrawing:
    """A universe as an edit would make it, with those framed that it puts there."""
    here = {(placed.fixture.id, placed.part): placed.run for placed in show.runs_in(universe)}
    moved = {p.fixture.id for p in after.runs_in(universe) if here.get((p.fixture.id, p.part)) != p.run}
    return draw_fence(after, universe, analyse(after).findings, picked=picked, moved=moved, on=on)
