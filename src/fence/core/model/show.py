"""A show as a value: fixtures, where they hang, what they are, the universes and the desk."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property, partial
from itertools import chain
from typing import Any
from zlib import crc32

from fence.core.model.address import EVERY_SLOT, Run, bits_of, check_slot, check_universe
from fence.core.model.box import MOST_BOXES, Box
from fence.core.model.day import Day
from fence.core.model.desk import NO_DESK, Desk, TellTale
from fence.core.model.errors import EditError
from fence.core.model.fixture import HIGHEST_ID, Fixture
from fence.core.model.former import formerly
from fence.core.model.ground import NO_GROUND, Ground
from fence.core.model.line import LONGEST_RUN, Line
from fence.core.model.looks import Looks
from fence.core.model.needs import Need
from fence.core.model.net import NO_NET, Net
from fence.core.model.occupancy import Occupancy, occupancy_of, slots_of
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Profile
from fence.core.model.record import Prep
from fence.core.model.stock import MOST_ITEMS, Item
from fence.core.model.text import check_finite, check_text, check_whole
from fence.core.model.waiver import MOST_WAIVERS, Waiver

LONGEST_NOTE = 20_000
OF_LINES = frozenset({"worked_out", "way_in", "line_by_id"})
"""What is kept with a show and hangs on its lines."""
HIGHEST = 1000
"""How many metres above or below the floor a position may be."""


@dataclass(frozen=True, slots=True)
class Universe:
    """512 slots under one number. ``reserved`` slots are kept free of fixtures."""

    number: int
    name: str = ""
    reserved: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        check_universe(self.number)
        check_text("universe name", self.name, required=False)
        if self.reserved != tuple(sorted({check_slot(slot) for slot in self.reserved})):
            object.__setattr__(self, "reserved", tuple(sorted(set(self.reserved))))

    @property
    def title(self) -> str:
        """Number and name, such as ``U3 Canopy walk``."""
        return f"U{self.number} {self.name}".rstrip()


@dataclass(frozen=True, slots=True)
class Position:
    """A place where fixtures hang. At one that is ``hard`` to reach, a repair moves fixtures last.

    ``height`` above the floor in metres and ``spacing`` between two fixtures there in metres, None
    where nobody has said.
    """

    name: str
    hard: bool = False
    height: float | None = None
    spacing: float | None = None

    def __post_init__(self) -> None:
        check_text("position", self.name)
        if (
            self.height is not None
            and not -HIGHEST <= check_finite("height", self.height) <= HIGHEST
        ):
            raise EditError(
                f"{self.height:g} m is not a height of a position. Use {-HIGHEST} to {HIGHEST} m."
            )
        if (
            self.spacing is not None
            and not 0 <= check_finite("spacing", self.spacing) <= LONGEST_RUN
        ):
            raise EditError(
                f"{self.spacing:g} m is not a spacing of fixtures. Use 0 to {LONGEST_RUN} m."
            )


@dataclass(frozen=True, slots=True)
class PlacedRun:
    """A part of a fixture at its address, as the drawing and the rules see it."""

    run: Run
    fixture: Fixture
    part: int


MANY_MOVES = 20
"""Moves in one step from which it is remembered which values they made."""

_MOVED = Looks[Fixture]()


@dataclass(frozen=True)
class Show:
    """The whole plan. Values never change: an edit gives another show.

    ``walk`` names positions in the order in which a crew goes to them; those that it does not name
    come after. ``skipped`` are the steps of the preparation that this show does without.
    ``ground``, ``stock`` and ``day`` are what the cable is reckoned from: distances, the pieces
    that there are, and when batteries must last. ``net`` is the network that the boxes share.
    ``waivers`` are findings that are let stand, with their reasons.
    """

    name: str
    fixtures: tuple[Fixture, ...] = ()
    profiles: tuple[Profile, ...] = ()
    universes: tuple[Universe, ...] = ()
    positions: tuple[Position, ...] = ()
    desk: Desk = NO_DESK
    next_id: int = 1
    note: str = ""
    needs: tuple[Need, ...] = ()
    tell_tale: TellTale | None = None
    walk: tuple[str, ...] = ()
    skipped: tuple[Prep, ...] = ()
    lines: tuple[Line, ...] = ()
    boxes: tuple[Box, ...] = ()
    ground: Ground = NO_GROUND
    stock: tuple[Item, ...] = ()
    day: Day | None = None
    net: Net = NO_NET
    waivers: tuple[Waiver, ...] = ()

    def __post_init__(self) -> None:
        check_text("show name", self.name)
        check_text("note", self.note, required=False, most=LONGEST_NOTE)
        check_whole("next fixture id", self.next_id, 1, HIGHEST_ID)
        if len(self.stock) > MOST_ITEMS:
            raise EditError(f"The stock has {len(self.stock)} lines. Use up to {MOST_ITEMS}.")
        if len(self.boxes) > MOST_BOXES:
            raise EditError(f"The show has {len(self.boxes)} nodes. Use up to {MOST_BOXES}.")
        if len(self.waivers) > MOST_WAIVERS:
            raise EditError(
                f"{len(self.waivers)} findings are let stand. Use up to {MOST_WAIVERS}."
            )
        for name in self.walk:
            check_text("position", name)

    def with_patches(self, patches: Mapping[int, tuple[Patch, ...]]) -> Show:
        """The show with fixtures, by their ids, planned elsewhere; the others stay as they are.

        Where many go to places that they were given in one of the last such shows, they are the
        same values as there, and what was found out of them holds.
        """
        fixtures = list(self.fixtures)
        look = _MOVED.begin() if len(patches) >= MANY_MOVES else None
        for fixture_id, patch in patches.items():
            index = self.index_by_id[fixture_id]
            moved = partial(replace, fixtures[index], patch=patch)
            if look is None:
                fixtures[index] = moved()
            else:
                fixtures[index] = look.at((fixture_id, patch), (fixtures[index],), moved)
        return replace(self, fixtures=tuple(fixtures))

    def with_lines(self, lines: tuple[Line, ...]) -> Show:
        """The show with other lines. What is known of everything else is kept: a plan of the cable
        makes thousands of shows, and none of them moves a fixture."""
        other = replace(self, lines=lines)
        known = {name: held for name, held in vars(self).items() if name not in vars(other)}
        vars(other).update({name: known[name] for name in known.keys() - OF_LINES})
        return other

    @cached_property
    def worked_out(self) -> dict[object, Any]:
        """What was worked out of this show, by what worked it out (``once_a_show``)."""
        return {}

    @cached_property
    def fixture_by_id(self) -> dict[int, Fixture]:
        return {fixture.id: fixture for fixture in self.fixtures}

    @cached_property
    def index_by_id(self) -> dict[int, int]:
        """The places of the fixtures in the show, by their ids."""
        return {fixture.id: index for index, fixture in enumerate(self.fixtures)}

    @cached_property
    def profile_by_id(self) -> dict[str, Profile]:
        return {profile.id: profile for profile in self.profiles}

    @cached_property
    def universe_by_number(self) -> dict[int, Universe]:
        return {universe.number: universe for universe in self.universes}

    @cached_property
    def way_in(self) -> dict[int, int]:
        """A number for the way by which the signal comes to each fixture on a line: another way,
        another number.

        It stands for the line's universe and all stops from the source on, whatever the line is
        called.
        """
        found: dict[int, int] = {}
        for line in self.lines:
            ways: dict[int | None, int] = {None: crc32(f"U{line.universe}".encode())}
            for stop in line.stops:
                device = formerly(stop.device) if stop.device else None
                cable = formerly(stop.cable)
                step = f"{stop.output} {stop.fixture} {device} {cable} {stop.link}"
                ways[stop.id] = crc32(step.encode(), ways[stop.after])
                if stop.fixture is not None:
                    found[stop.fixture] = ways[stop.id] or 1
        return found

    @cached_property
    def line_by_id(self) -> dict[int, Line]:
        """The lines by id."""
        return {line.id: line for line in self.lines}

    @cached_property
    def carried(self) -> dict[int, int]:
        """The universes that have a fixture with channels, in order, and how many fixtures each."""
        return {
            number: len(self.occupancy.placed_in(number)) for number in sorted(self.occupancy.spans)
        }

    @cached_property
    def box_by_id(self) -> dict[int, Box]:
        """The boxes by id."""
        return {box.id: box for box in self.boxes}

    def box(self, box_id: int) -> Box:
        """The box of that id; ``EditError`` if the show has none."""
        try:
            return self.box_by_id[box_id]
        except KeyError:
            raise EditError("That node is no longer in the show.") from None

    def line(self, line_id: int) -> Line:
        """The line of that id; ``EditError`` if the show has none."""
        try:
            return self.line_by_id[line_id]
        except KeyError:
            raise EditError("That line is no longer in the show.") from None

    @cached_property
    def hard_positions(self) -> frozenset[str]:
        """The names of the positions that are hard to reach."""
        return frozenset(position.name for position in self.positions if position.hard)

    def reserved_in(self, universe: int) -> tuple[int, ...]:
        """The slots of a universe that fixtures must not take, the tell-tale slot with them, in
        order."""
        known = self.universe_by_number.get(universe)
        kept = known.reserved if known else ()
        return tuple(sorted({*kept, self.tell_tale.slot})) if self.tell_tale else kept

    @cached_property
    def modes(self) -> dict[tuple[str, str], Mode]:
        """Every mode of the show's profiles by profile id and mode name."""
        return {
            (profile.id, mode.name): mode for profile in self.profiles for mode in profile.modes
        }

    @cached_property
    def fixtures_in(self) -> dict[int, list[Fixture]]:
        """The fixtures that have a start in each universe, in show order."""
        found: dict[int, list[Fixture]] = {universe.number: [] for universe in self.universes}
        for fixture in self.fixtures:
            patch = fixture.patch
            if len(patch) == 1:
                if patch[0].slot is not None:
                    found.setdefault(patch[0].universe or 0, []).append(fixture)
                continue
            for number in {entry.universe for entry in patch if entry.slot is not None}:
                found.setdefault(number or 0, []).append(fixture)
        return found

    @cached_property
    def occupancy(self) -> Occupancy:
        """Which slots every fixture takes, and what is odd about some."""
        return occupancy_of(self.fixtures, self.profiles)

    @cached_property
    def taken(self) -> dict[int, int]:
        """The taken slots of each universe that has any, as bits: bit 0 for slot 1."""
        numbers = dict.fromkeys((*self.universe_by_number, *sorted(self.occupancy.spans)))
        return {universe: bits for universe in numbers if (bits := self.taken_in(universe))}

    def taken_in(self, universe: int) -> int:
        """The taken slots of one universe, as bits; the others are not looked at."""
        if universe not in self.occupancy.spans:
            return 0
        kept = self.occupancy.kept(universe)
        if "taken" not in kept:
            kept["taken"] = slots_of(self.occupancy.spans[universe])
        taken: int = kept["taken"]
        return taken

    def owned_in(self, universe: int) -> list[tuple[int, int]]:
        """Who takes which slots of a universe: fixture ids with bits, one entry a run."""
        return [
            (self.fixtures[span[2]].id, slots_of([span]))
            for span in self.occupancy.spans.get(universe, ())
        ]

    def taken_by_others(self, universe: int, fixture_id: int) -> int:
        """The slots of a universe that others than one fixture take, as bits."""
        index = self.index_by_id.get(fixture_id)
        if index is None:
            return self.taken_in(universe)
        own = 0
        for width, entry in zip(
            self.footprints_of(self.fixtures[index]), self.fixtures[index].patch, strict=False
        ):
            if entry.universe == universe and entry.slot is not None:
                own |= bits_of(entry.slot, width)
        owners, twice = self._met_in(universe)
        return self.taken_in(universe) & ~own | owners.get(index, 0) & twice

    def _met_in(self, universe: int) -> tuple[dict[int, int], int]:
        """What each fixture, by its place in the show, takes where spans meet, and what more than
        one takes."""
        if universe not in self.occupancy.heaps:
            return {}, 0
        kept = self.occupancy.kept(universe)
        if "met" not in kept:
            owners: dict[int, int] = {}
            for first, last, index, _ in chain.from_iterable(self.occupancy.heaps[universe]):
                owners[index] = owners.get(index, 0) | (1 << last) - (1 << first - 1) & EVERY_SLOT
            taken = twice = 0
            for held in owners.values():
                twice |= taken & held
                taken |= held
            kept["met"] = owners, twice
        met: tuple[dict[int, int], int] = kept["met"]
        return met

    @cached_property
    def universe_numbers(self) -> tuple[int, ...]:
        """The numbers of the show's universes, in order."""
        return tuple(sorted(self.universe_by_number))

    def fixture(self, fixture_id: int) -> Fixture:
        """The fixture of that id; ``EditError`` if the show has none."""
        try:
            return self.fixture_by_id[fixture_id]
        except KeyError:
            raise EditError("That fixture is no longer in the show.") from None

    def profile_of(self, fixture: Fixture) -> Profile | None:
        """The fixture's profile, or None if the show lacks it."""
        return self.profile_by_id.get(fixture.profile)

    def mode_of(self, fixture: Fixture) -> Mode | None:
        """The fixture's mode, or None if its profile has no such mode."""
        return self.modes.get((fixture.profile, fixture.mode))

    def footprints_of(self, fixture: Fixture) -> tuple[int, ...]:
        """Channels of each part; empty while the mode is missing."""
        return self._footprints.get((fixture.profile, fixture.mode), ())

    @cached_property
    def _footprints(self) -> dict[tuple[str, str], tuple[int, ...]]:
        return {
            key: tuple(part.footprint for part in mode.parts) for key, mode in self.modes.items()
        }

    def universes_of(self, fixture: Fixture) -> tuple[int, ...]:
        """The universes that a fixture listens to, each once, in the order of its parts; those
        without channels listen to none. While its mode is missing they are those of its plan."""
        if len(fixture.patch) == 1:
            universe = fixture.patch[0].universe
            widths = self.footprints_of(fixture)
            return () if universe is None or (widths and not widths[0]) else (universe,)
        widths = self.footprints_of(fixture) or (1,) * len(fixture.patch)
        found = (p.universe for width, p in zip(widths, fixture.patch, strict=False) if width)
        return tuple(dict.fromkeys(universe for universe in found if universe is not None))

    def runs_of(self, fixture: Fixture) -> list[PlacedRun]:
        """The fixture's runs of slots: one for each part that has channels and a start."""
        runs = []
        for part, (footprint, patch) in enumerate(
            zip(self.footprints_of(fixture), fixture.patch, strict=False)
        ):
            if footprint and patch.slot is not None and patch.universe is not None:
                runs.append(PlacedRun(Run(patch.universe, patch.slot, footprint), fixture, part))
        return runs

    def runs_in(self, universe: int) -> tuple[PlacedRun, ...]:
        """All runs in a universe by first slot; those of equal start in show order."""
        runs = self._runs_in.get(universe)
        if runs is None:
            spans = self.occupancy.spans.get(universe, ())
            in_order = sorted((first, index, part, last) for first, last, index, part in spans)
            runs = self._runs_in[universe] = tuple(
                PlacedRun(Run(universe, first, last - first + 1), self.fixtures[index], part)
                for first, index, part, last in in_order
            )
        return runs

    @cached_property
    def _runs_in(self) -> dict[int, tuple[PlacedRun, ...]]:
        """What ``runs_in`` has found so far."""
        return {}

    def sharers_of(self, fixture: Fixture) -> list[Fixture]:
        """The fixture and all that share its address by declaration, in show order."""
        if not fixture.share:
            return [fixture]
        return self._groups.get(fixture.share) or [fixture]

    @cached_property
    def _groups(self) -> dict[str, list[Fixture]]:
        groups: dict[str, list[Fixture]] = {}
        for fixture in self.fixtures:
            if fixture.share:
                groups.setdefault(fixture.share, []).append(fixture)
        return groups


def slot_meaning(mode: Mode, part: int, offset: int) -> str:
    """What the slot ``offset`` (0-based) of a part does, or ``channel n`` where the chart is not
    known."""
    channels = mode.parts[part].channels
    return (
        channels[offset].title if channels and offset < len(channels) else f"channel {offset + 1}"
    )
