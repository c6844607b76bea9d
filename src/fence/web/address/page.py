"""The Address page as values: the fence, the picked fixture, its problems, a proposal before it is
made."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.checks import Analysis, Finding
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.sharing import buttons_left
from fence.core.model.show import Show, Universe
from fence.core.model.space import starts_one_by_one
from fence.store.shows import SavedShow
from fence.web.address.asked import Asked
from fence.web.address.drawing import FenceDrawing, draw_fence
from fence.web.address.picked import Picked, picked_of
from fence.web.address.proposed import Proposal, ProposedEdit, draw_then, proposal_of


@dataclass(frozen=True, slots=True)
class Block:
    """Several picked fixtures: who, from where to where, and what sharing one address would give up
    and gain."""

    fixtures: tuple[Fixture, ...]
    channels: int
    universes: tuple[int, ...]
    alike: bool
    saved: int
    first: Patch | None


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


def make_board(
    saved: SavedShow, analysis: Analysis, asked: Asked, proposed: ProposedEdit | None = None
) -> Board:
    """Put the page together. What was asked for and is not there (any more) is left out."""
    show = saved.show
    then = proposed.after if proposed else show
    fixture = show.fixture_by_id.get(asked.pick or 0)
    universe = _universe_for(then, asked, fixture)
    picked = picked_of(show, analysis, fixture, asked) if fixture else None
    block = _block(show, asked)
    held = {
        sharer.id
        for i in asked.picks
        if i in show.fixture_by_id
        for sharer in show.sharers_of(show.fixture(i))
    }
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
        proposal=proposal_of(show, analysis, proposed) if proposed else None,
        unaddressed=_unaddressed(show),
        rooms=() if picked else _rooms(show, universe.number),
        previous=numbers[place - 1] if place > 0 else None,
        next=numbers[place + 1] if place + 1 < len(numbers) else None,
        stops=len(analysis.address_stops),
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
    found = analysis.along_the_fence
    if not found:
        return None
    shown = analysis.by_key.get(asked.finding)
    if shown in found:
        return found[(found.index(shown) + step) % len(found)]
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
        for fixture in (show.fixtures[index] for index in show.occupancy.unplaced)
        if any(
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
