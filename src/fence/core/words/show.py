"""A show as a value: fixtures, where they hang, what they are, the universes and the desk."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from fence.core.words.address import EVERY_SLOT, SLOTS, Address, Run, check_slot, check_universe
from fence.core.words.errors import EditError
from fence.core.words.needs import Need
from fence.core.words.profile import Function, Mode, Profile
from fence.core.words.text import LONGEST_TEXT, check_text, check_whole

HIGHEST_ID = 2**53 - 1
"""Highest fixture id: whole numbers up to here are exact in every program that reads JSON."""

MOST_BUTTONS = 100_000
LONGEST_NOTE = 20_000


@dataclass(frozen=True, slots=True)
class Patch:
    """Where one part of a fixture is planned: a universe and a start slot, a universe only, or nothing."""

    universe: int | None = None
    slot: int | None = None

    def __post_init__(self) -> None:
        if self.universe is not None:
            check_universe(self.universe)
        if self.slot is not None:
            check_slot(self.slot)
            if self.universe is None:
                raise EditError(f"Slot {self.slot} needs a universe beside it.")

    @property
    def address(self) -> Address | None:
        """The start address, or None while it has none."""
        if self.universe is None or self.slot is None:
            return None
        return Address(self.universe, self.slot)

    def __str__(self) -> str:
        if self.slot is None:
            return "no address" if self.universe is None else f"U{self.universe}, no address"
        return str(self.address)


@dataclass(frozen=True, slots=True)
class SetTo:
    """What was really set at a fixture: the mode and the start of each part, whatever the plan says by now."""

    mode: str
    patch: tuple[Patch, ...]

    def __post_init__(self) -> None:
        check_text("mode", self.mode, required=False)


@dataclass(frozen=True, slots=True)
class Fixture:
    """One fixture of the rig.

    ``id`` tells it apart for good; ``number`` and ``label`` are what people call it. ``patch`` has one entry a part
    of its mode. Fixtures of one ``share`` group listen to the same address on purpose. ``set_to`` is what was set at
    the fixture, None while nobody has been there.
    """

    id: int
    label: str
    profile: str
    mode: str
    number: int | None = None
    position: str = ""
    patch: tuple[Patch, ...] = (Patch(),)
    pinned: bool = False
    share: str = ""
    note: str = ""
    set_to: SetTo | None = None

    def __post_init__(self) -> None:
        words = self.label + self.profile + self.mode + self.position + self.share + self.note
        if len(words) > LONGEST_TEXT or not words.isprintable() or not self.label.strip():
            self._check_words()
        check_whole("fixture id", self.id, 1, HIGHEST_ID)
        if self.number is not None:
            check_whole("fixture number", self.number, 0, 999_999_999)
        if not self.patch:
            raise EditError(f"{self.label} has no patch entry: there is one for each part of its mode.")

    def _check_words(self) -> None:
        """Each text by itself. One look at all of them together is enough for nearly every fixture."""
        check_text("label", self.label)
        check_text("profile", self.profile, required=False)
        check_text("mode", self.mode, required=False)
        check_text("position", self.position, required=False)
        check_text("sharing group", self.share, required=False)
        check_text("note", self.note, required=False)

    @property
    def universe(self) -> int | None:
        """Universe of its first part."""
        return self.patch[0].universe

    @property
    def start(self) -> int | None:
        """Start slot of its first part."""
        return self.patch[0].slot

    @property
    def set_as_planned(self) -> bool:
        """Whether it was set, and to what the plan still says."""
        return self.set_to is not None and (self.set_to.mode, self.set_to.patch) == (self.mode, self.patch)


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
    """A place where fixtures hang. At one that is ``hard`` to reach, a repair moves fixtures last."""

    name: str
    hard: bool = False

    def __post_init__(self) -> None:
        check_text("position", self.name)


@dataclass(frozen=True, slots=True)
class Desk:
    """The control desk, described by its limits.

    ``universes``: the highest universe number it sends, None where not known. ``page``: slots of the page that each
    fixture button controls, None for a desk that patches freely. ``buttons``: how many fixture buttons it has.
    ``highest``: the highest slot it sends. ``layout``: the functions it expects slot by slot, empty where it takes any.
    """

    name: str = ""
    universes: int | None = None
    page: int | None = None
    buttons: int | None = None
    highest: int = SLOTS
    layout: tuple[Function, ...] = ()

    def __post_init__(self) -> None:
        if self.universes is not None:
            check_universe(self.universes)
        if self.page is not None:
            check_slot(self.page)
        if self.buttons is not None:
            check_whole("number of fixture buttons", self.buttons, 1, MOST_BUTTONS)
        check_slot(self.highest)
        check_text("desk name", self.name, required=False)
        if len(self.layout) > SLOTS:
            raise EditError(f"The desk's layout has {len(self.layout)} channels: accepted are up to {SLOTS}.")


class Scale(StrEnum):
    """How the tell-tale slot says its universe's number: as a percentage, or as the level itself."""

    PERCENT = "percent"
    RAW = "raw"

    @property
    def highest(self) -> int:
        """The highest universe number that the scale can say."""
        return 100 if self is Scale.PERCENT else 255


@dataclass(frozen=True, slots=True)
class TellTale:
    """A slot that is kept, in every universe, at a level which is the universe's number. Practice, not standard."""

    slot: int = SLOTS
    scale: Scale = Scale.PERCENT

    def __post_init__(self) -> None:
        check_slot(self.slot)

    def level(self, universe: int) -> int | None:
        """The level (0 to 255) that says ``universe``; None where the scale does not reach so far.

        In percent it is the lowest level that every display, rounding or cutting, shows as that percentage.
        """
        if universe > self.scale.highest:
            return None
        return -(-255 * universe // 100) if self.scale is Scale.PERCENT else universe


@dataclass(frozen=True, slots=True)
class PlacedRun:
    """A part of a fixture at its address, as the drawing and the rules see it."""

    run: Run
    fixture: Fixture
    part: int


@dataclass(frozen=True)
class Show:
    """The whole plan. Values never change: an edit gives another show."""

    name: str
    fixtures: tuple[Fixture, ...] = ()
    profiles: tuple[Profile, ...] = ()
    universes: tuple[Universe, ...] = ()
    positions: tuple[Position, ...] = ()
    desk: Desk = Desk()
    next_id: int = 1
    note: str = ""
    needs: tuple[Need, ...] = ()
    tell_tale: TellTale | None = None

    def __post_init__(self) -> None:
        check_text("show name", self.name)
        check_text("note", self.note, required=False, most=LONGEST_NOTE)
        check_whole("next fixture id", self.next_id, 1, HIGHEST_ID)

    @cached_property
    def fixture_by_id(self) -> dict[int, Fixture]:
        return {fixture.id: fixture for fixture in self.fixtures}

    @cached_property
    def profile_by_id(self) -> dict[str, Profile]:
        return {profile.id: profile for profile in self.profiles}

    @cached_property
    def universe_by_number(self) -> dict[int, Universe]:
        return {universe.number: universe for universe in self.universes}

    @cached_property
    def hard_positions(self) -> frozenset[str]:
        """The names of the positions that are hard to reach."""
        return frozenset(position.name for position in self.positions if position.hard)

    def reserved_in(self, universe: int) -> tuple[int, ...]:
        """The slots of a universe that fixtures must not take, the tell-tale slot with them, in order."""
        known = self.universe_by_number.get(universe)
        kept = known.reserved if known else ()
        return tuple(sorted({*kept, self.tell_tale.slot})) if self.tell_tale else kept

    @cached_property
    def modes(self) -> dict[tuple[str, str], Mode]:
        """Every mode of the show's profiles by profile id and mode name."""
        return {(profile.id, mode.name): mode for profile in self.profiles for mode in profile.modes}

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
    def taken(self) -> dict[int, int]:
        """The taken slots of each universe that has any, as bits: bit 0 for slot 1."""
        return {universe: bits for universe in self.fixtures_in if (bits := self.taken_in(universe))}

    def taken_in(self, universe: int) -> int:
        """The taken slots of one universe, as bits; the others are not looked at."""
        bits = self._taken_in.get(universe)
        if bits is None:
            bits = 0
            for _, held in self.owned_in(universe):
                bits |= held
            self._taken_in[universe] = bits
        return bits

    def owned_in(self, universe: int) -> list[tuple[int, int]]:
        """Who takes which slots of a universe: fixture ids with bits, one entry a run."""
        owned = self._owned_in.get(universe)
        if owned is None:
            owned = self._owned_in[universe] = [
                (fixture.id, (((1 << footprint) - 1) << (patch.slot - 1)) & EVERY_SLOT)
                for fixture in self.fixtures_in.get(universe, ())
                for footprint, patch in zip(self.footprints_of(fixture), fixture.patch, strict=False)
                if footprint and patch.slot is not None and patch.universe == universe
            ]
        return owned

    @cached_property
    def _owned_in(self) -> dict[int, list[tuple[int, int]]]:
        """What ``owned_in`` has found so far."""
        return {}

    @cached_property
    def universe_numbers(self) -> tuple[int, ...]:
        """The numbers of the show's universes, in order."""
        return tuple(sorted(self.universe_by_number))

    @cached_property
    def _taken_in(self) -> dict[int, int]:
        """What ``taken_in`` has found so far."""
        return {}

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
        return {key: tuple(part.footprint for part in mode.parts) for key, mode in self.modes.items()}

    def runs_of(self, fixture: Fixture) -> list[PlacedRun]:
        """The fixture's runs of slots: one for each part that has channels and a start."""
        runs = []
        for part, (footprint, patch) in enumerate(zip(self.footprints_of(fixture), fixture.patch, strict=False)):
            if footprint and patch.slot is not None and patch.universe is not None:
                runs.append(PlacedRun(Run(patch.universe, patch.slot, footprint), fixture, part))
        return runs

    def runs_in(self, universe: int) -> tuple[PlacedRun, ...]:
        """All runs in a universe by first slot; those of equal start in show order."""
        runs = self._runs_in.get(universe)
        if runs is None:
            found = [
                placed
                for fixture in self.fixtures_in.get(universe, ())
                for placed in self.runs_of(fixture)
                if placed.run.universe == universe
            ]
            runs = self._runs_in[universe] = tuple(sorted(found, key=lambda placed: placed.run.first))
        return runs

    @cached_property
    def _runs_in(self) -> dict[int, tuple[PlacedRun, ...]]:
        """What ``runs_in`` has found so far."""
        return {}

    def sharers_of(self, fixture: Fixture) -> list[Fixture]:
        """The fixture and all that share its address by declaration, in show order."""
        if not fixture.share:
            return [fixture]
        return [other for other in self.fixtures if other.share == fixture.share]


def slot_meaning(mode: Mode, part: int, offset: int) -> str:
    """What the slot ``offset`` (0-based) of a part does, or ``channel n`` where the chart is not known."""
    channels = mode.parts[part].channels
    return channels[offset].title if channels and offset < len(channels) else f"channel {offset + 1}"
