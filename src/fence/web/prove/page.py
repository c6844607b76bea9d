"""The Prove step as values: the order, the picture of a position, the question."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from fence.core.model.address import SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.standing import State, standing_of, state_of, states_of
from fence.core.model.text import agreeing, counted, joined
from fence.core.setting.prep import cautions_for
from fence.core.setting.walk import along_the_cable, places_in_order
from fence.core.simulation.bringing import Look, called, expected, levels_for, looks_of, put_in
from fence.core.simulation.practice import PracticeRig, Seen
from fence.web.address.drawing import hue_of

A_ROW, WIDE, HIGH = 8, 100, 142
"""Fixtures of a row of the picture; room of one, in units of the picture."""
MOST_PLACES = 12
MOST_HUNG = 160
"""Fixtures that are drawn; of a larger rig those around the current one."""


@dataclass(frozen=True, slots=True)
class Hung:
    """A fixture on the picture: where it hangs, its light, what is known of it."""

    fixture: Fixture
    x: int
    y: int
    address: str
    fill: str
    proven: bool
    bad: bool
    current: bool
    flickers: bool
    own: bool
    words: str


@dataclass(frozen=True, slots=True)
class Bar:
    """A position on the picture: its fixtures in rows."""

    name: str
    hue: int
    width: int
    height: int
    rows: tuple[int, ...]
    hung: tuple[Hung, ...]
    more: int
    """Fixtures there that are not drawn."""


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked of one fixture in one look."""

    fixture: Fixture
    look: Look
    looks: tuple[Look, ...]
    words: str
    place: str
    next_look: Look | None
    cautions: tuple[str, ...]
    fill: str
    named: dict[Look, str]


def order(
    show: Show, at: str | None = None, universe: int | None = None, kind: str | None = None
) -> list[Fixture]:
    """The fixtures that can be proven, position by position in the order of the walk, along the
    cable.

    Narrowed to a position, a universe, a type (by the id of its chart).
    """
    found = _all_in_order(show)
    if (at, universe, kind) == (None, None, None):
        return list(found)
    return [
        fixture
        for fixture in found
        if (at is None or fixture.position == at)
        and (universe is None or any(entry.universe == universe for entry in fixture.patch))
        and (kind is None or fixture.profile == kind)
    ]


@once_a_show
def _all_in_order(show: Show) -> Sequence[Fixture]:
    states = states_of(show)
    found = [f for f in along_the_cable(show) if states[f.id] is not State.UNPLANNED]
    places = {name: number for number, name in enumerate(places_in_order(show))}
    return tuple(sorted(found, key=lambda fixture: places.get(fixture.position, len(places))))


def looks(show: Show, fixture: Fixture) -> tuple[Look, ...]:
    """The looks in which a fixture is seen; one that nobody could see has none but open."""
    mode = show.mode_of(fixture)
    return (looks_of(mode) if mode else ()) or (Look.OPEN,)


def question(show: Show, fixture: Fixture, look: Look) -> Question:
    """What should be seen of a fixture that is brought up in a look, in words."""
    mode = show.mode_of(fixture)
    seen = expected(mode, look) if mode else None
    mine = looks(show, fixture)
    at = mine.index(look) if look in mine else 0
    where = fixture.planned_at
    position = next((one for one in show.positions if one.name == fixture.position), None)
    return Question(
        fixture,
        mine[at],
        mine,
        _should(fixture, mine[at], called(mode, mine[at]) if mode else str(mine[at]), seen),
        f"{where}, {fixture.mode}. All others are down.",
        mine[at + 1] if at + 1 < len(mine) else None,
        cautions_for(show, fixture, position),
        hexed(seen) if seen else "",
        {one: called(mode, one) if mode else str(one) for one in mine},
    )


def _should(fixture: Fixture, look: Look, words: str, seen: Seen | None) -> str:
    if seen is None or (not seen.lit and seen.state == "dark"):
        return f"{fixture.label} should answer"
    if not seen.lit:
        return f"{fixture.label} should be {seen.state}"
    if look is Look.MOVED:
        return f"{fixture.label} should go {words}"
    return f"{fixture.label} should be {words}"


def hexed(seen: Seen) -> str:
    """The light as a colour of the page; empty for none."""
    return "#{:02x}{:02x}{:02x}".format(*seen.colour) if seen.lit else ""


def frames_for(show: Show, fixture: Fixture, look: Look) -> dict[int, bytes]:
    """The levels of every universe of the show with one fixture brought up, all others at zero."""
    frames = {universe: bytearray(SLOTS) for universe in universes_of(show)}
    mode = show.mode_of(fixture)
    if mode is not None:
        put_in(frames, fixture, mode, levels_for(mode, look))
    return {universe: bytes(frame) for universe, frame in frames.items()}


def with_tell_tale(show: Show, frames: Mapping[int, bytes]) -> dict[int, bytes]:
    """The levels with the tell-tale slot of each universe at its number, where the show keeps
    one."""
    tell = show.tell_tale
    if tell is None:
        return dict(frames)
    found = {}
    for universe, levels in frames.items():
        frame = bytearray(levels.ljust(SLOTS, b"\0"))
        level = tell.level(universe)
        if level is not None:
            frame[tell.slot - 1] = level
        found[universe] = bytes(frame)
    return found


def universes_of(show: Show) -> list[int]:
    """The universes in which fixtures are planned."""
    return sorted(
        {entry.universe for f in show.fixtures for entry in f.patch if entry.universe is not None}
    )


def as_planned(show: Show) -> PracticeRig:
    """The rig as it ought to stand: everything as planned, whatever was set."""
    fixtures = tuple(
        replace(fixture, set_to=None, read_back=None, proven=None) for fixture in show.fixtures
    )
    return PracticeRig(replace(show, fixtures=fixtures))


@dataclass(frozen=True, slots=True)
class Shown:
    """What a fixture of the practice rig does, as it says."""

    fill: str
    state: str
    flickers: bool
    sides: tuple[float | None, float | None]

    @property
    def words(self) -> str:
        """In words."""
        return self.state + (", flickers" if self.flickers else "")


def shown_of(state: Mapping[str, Any] | None) -> dict[int, Shown]:
    """What the fixtures of a practice rig do; empty where it does not run."""
    found = {}
    for key, one in (state or {}).get("fixtures", {}).items():
        colour = one["colour"]
        fill = "#{:02x}{:02x}{:02x}".format(*colour) if any(colour) else ""
        found[int(key)] = Shown(
            fill, one["state"], bool(one["flickers"]), (one["pan"], one["tilt"])
        )
    return found


def bars(
    show: Show,
    fixtures: Sequence[Fixture],
    shown: Mapping[int, Shown],
    current: int | None,
    signs: Sequence[int],
) -> list[Bar]:
    """The picture: each position with what hangs there. The position of the current fixture comes
    first."""
    by_place: dict[str, list[Fixture]] = {}
    for fixture in fixtures:
        by_place.setdefault(fixture.position, []).append(fixture)
    here = show.fixture_by_id[current].position if current in show.fixture_by_id else None
    names = sorted(by_place, key=lambda name: name != here)[:MOST_PLACES]
    found, left = [], MOST_HUNG
    for name in names:
        part = _around(by_place[name], current, left)
        left -= len(part)
        more = len(by_place[name]) - len(part)
        found.append(_bar(show, name, part, shown, current, signs, more))
        if left <= 0:
            break
    return found


def _around(fixtures: Sequence[Fixture], current: int | None, most: int) -> Sequence[Fixture]:
    """As many as there is room for, the current one in their middle."""
    place = next((n for n, fixture in enumerate(fixtures) if fixture.id == current), 0)
    first = max(0, min(place - most // 2, len(fixtures) - most))
    return fixtures[first : first + most]


def _bar(
    show: Show,
    name: str,
    fixtures: Sequence[Fixture],
    shown: Mapping[int, Shown],
    current: int | None,
    signs: Sequence[int],
    more: int,
) -> Bar:
    hung = []
    for place, fixture in enumerate(fixtures):
        state, one = state_of(show, fixture), shown.get(fixture.id)
        address = "+".join(f"{entry.slot:03d}" for entry in fixture.patch if entry.slot is not None)
        proven = state is State.PROVEN
        hung.append(
            Hung(
                fixture,
                place % A_ROW * WIDE + WIDE // 2,
                place // A_ROW * HIGH + 12,
                address,
                one.fill if one else "",
                proven,
                fixture.id in signs
                or fixture.sign is not None
                or state in (State.RE_SET, State.DIFFERS),
                fixture.id == current,
                bool(one and one.flickers),
                bool(one and one.state.startswith("own program")),
                f"{fixture.label} {address}: "
                f"{one.words if one else state}{', proven' if one and proven else ''}"
                + (f"; {fixture.sign.words}" if fixture.sign else ""),
            )
        )
    rows = -(-len(fixtures) // A_ROW)
    across = min(len(fixtures), A_ROW)
    rails = tuple(row * HIGH + 12 for row in range(rows))
    return Bar(
        name or "No position",
        hue_of(show, name),
        across * WIDE,
        rows * HIGH,
        rails,
        tuple(hung),
        more,
    )


def meanwhile(show: Show, shown: Mapping[int, Shown], current: Fixture, look: Look) -> list[str]:
    """What the practice rig does beside what was asked for: who else lights up, what the one itself
    does instead."""
    told = []
    mine = shown.get(current.id)
    mode = show.mode_of(current)
    if mine is not None and mode is not None:
        wanted = expected(mode, look)
        if wanted.lit and not mine.fill:
            told.append(f"{current.label} stays dark.")
        elif mine.fill != hexed(wanted) or mine.state != wanted.state:
            told.append(f"{current.label} does something else: {mine.words}.")
    others = [
        show.fixture(fixture_id).label
        for fixture_id, one in shown.items()
        if fixture_id != current.id
        and one.fill
        and one.state != "own program"
        and fixture_id in show.fixture_by_id
    ]
    if others:
        told.append(
            f"{joined(others, most=5, shown=4)} {agreeing(len(others), 'lights', 'light')} up, too."
        )
    return told


@dataclass(frozen=True, slots=True)
class Compared:
    """A fixture as it ought to do and as it does."""

    fixture: Fixture
    wanted: str
    wanted_fill: str
    does: str
    fill: str
    differs: bool


def compared(show: Show, frames: Mapping[int, bytes], shown: Mapping[int, Shown]) -> list[Compared]:
    """Every fixture as planned beside what the practice rig does with the same levels; differences
    first."""
    planned = as_planned(show).seen(frames)
    rows = []
    for fixture in order(show):
        wanted, does = planned[fixture.id], shown.get(fixture.id)
        if does is None:
            continue
        same = hexed(wanted) == does.fill and wanted.state == does.state and not does.flickers
        rows.append(Compared(fixture, wanted.state, hexed(wanted), does.words, does.fill, not same))
    return sorted(rows, key=lambda row: not row.differs)


def proven_words(show: Show) -> str:
    """How many are proven."""
    standing = standing_of(show)
    return f"{standing.proven} of {standing.of} proven" if standing.of else counted(0, "fixture")
