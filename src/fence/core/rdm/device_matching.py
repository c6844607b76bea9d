"""Who of those that answer is who of the plan, how sure that is, and who is missing and why."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Collection, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Mode, Profile
from fence.core.model.show import Show
from fence.core.model.standing import stands
from fence.core.model.wiring import name_of, wiring_of
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.packet import read_identity
from fence.core.rdm.values import build_words


class Sure(StrEnum):
    """How sure it is that a device is a fixture of the plan."""

    CERTAIN = "certain"
    LIKELY = "likely"
    GUESS = "a guess"
    ANY = "any of several"


@dataclass(frozen=True, slots=True)
class Pair:
    """A fixture and the device that it is taken to be. ``differs`` is what is not as planned there,
    in words."""

    fixture: Fixture
    said: DeviceInfo
    sure: Sure
    why: str
    differs: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Missing:
    """A fixture of the plan that did not answer, and the likely reason. ``expected``: it should
    have."""

    fixture: Fixture
    why: str
    expected: bool


@dataclass(frozen=True, slots=True)
class Match:
    """Everybody: pairs in the order of the plan, those missing, and those that are not planned."""

    pairs: tuple[Pair, ...]
    missing: tuple[Missing, ...]
    strange: tuple[DeviceInfo, ...]


def plain(text: str) -> str:
    """A text for comparing: letters and digits only, of any script."""
    return "".join(character for character in text.casefold() if character.isalnum())


def label_key(text: str) -> str:
    """A label for comparing, as far as a device can keep it: 32 bytes."""
    return plain(build_words(text).decode())


def is_type(profile: Profile, said: DeviceInfo) -> bool:
    """Whether a device is of a type: its number is that of the type, or the model is the same, and
    the maker where both name one."""
    if (
        profile.rdm_model
        and profile.rdm_model == f"{said.identity.maker:04X}:{said.model_number:04X}"
    ):
        return True
    mine, its = plain(profile.model), plain(said.model)
    if not mine or not its:
        return False
    makers = plain(profile.maker), plain(said.maker)
    same_maker = not all(makers) or makers[0] in makers[1] or makers[1] in makers[0]
    return same_maker and (mine == its or plain(profile.title) == its or mine == plain(said.title))


def mode_said(profile: Profile, said: DeviceInfo, personality: int | None = None) -> Mode | None:
    """The mode of a chart that a personality of a device is: by name, else by a footprint that only
    one has."""
    number = said.personality if personality is None else personality
    held = next((one for one in said.personalities if one.number == number), None)
    footprint = (
        held.footprint if held and held.footprint else said.footprint if personality is None else 0
    )
    numbered = [mode for mode in profile.modes if mode.personality == number]
    if len(numbered) == 1 and numbered[0].footprint == footprint:
        return numbered[0]
    if held and held.name:
        named = [mode for mode in profile.modes if plain(mode.name) == plain(held.name)]
        if len(named) == 1 and named[0].footprint == footprint:
            return named[0]
    sized = [mode for mode in profile.modes if mode.footprint == footprint]
    return sized[0] if len(sized) == 1 and footprint else None


def personality_for(mode: Mode, profile: Profile, said: DeviceInfo) -> int | None:
    """The personality of a device that is a mode of the chart; None where it has none that surely
    is."""
    fitting = [
        one.number for one in said.personalities if mode_said(profile, said, one.number) == mode
    ]
    if said.personality in fitting:
        return said.personality
    return fitting[0] if len(fitting) == 1 else None


def match(
    show: Show,
    said: Sequence[DeviceInfo],
    *,
    told: Mapping[str, int] | None = None,
    asked: Collection[int] | None = None,
) -> Match:
    """Pair those that answer with the plan.

    ``told`` are pairs that somebody made: identities with fixture ids. ``asked`` are the universes
    that were asked in, None for all.
    """
    table = _Table(show, [one for one in said if not one.problem or one.model])
    table.take_told(told or {})
    for step in (
        _by_identity,
        _without_one_of_its_own,
        _by_label,
        _by_address,
        _as_the_only_one,
        _in_order,
        _as_they_come,
    ):
        step(table)
    pairs = [
        Pair(fixture, one, sure, why, tuple(differences(show, fixture, one)))
        for fixture in show.fixtures
        if (found := table.pairs.get(fixture.id)) is not None
        for one, sure, why in (found,)
    ]
    paired = {str(pair.said.identity) for pair in pairs}
    missing = [
        _missing(show, f, asked)
        for f in show.fixtures
        if f.id not in table.pairs and _has_type(show, f)
    ]
    return Match(
        tuple(pairs), tuple(missing), tuple(one for one in said if str(one.identity) not in paired)
    )


def _has_type(show: Show, fixture: Fixture) -> bool:
    return show.profile_of(fixture) is not None


class _Table:
    """Fixtures and devices that have found nobody yet."""

    def __init__(self, show: Show, said: Sequence[DeviceInfo]) -> None:
        self.show = show
        self.pairs: dict[int, tuple[DeviceInfo, Sure, str]] = {}
        self._fixtures = {
            fixture.id: fixture for fixture in show.fixtures if _has_type(show, fixture)
        }
        self._said = {id(one): one for one in said}
        self.types: dict[str, Profile] = show.profile_by_id

    @property
    def fixtures(self) -> list[Fixture]:
        """Those of the plan that are left."""
        return list(self._fixtures.values())

    @property
    def said(self) -> list[DeviceInfo]:
        """Those who answered that are left."""
        return list(self._said.values())

    def is_left(self, one: DeviceInfo) -> bool:
        """Whether a device has found nobody yet."""
        return id(one) in self._said

    def leave_out(self, fixtures: Iterable[Fixture]) -> None:
        """Take fixtures for nobody from here on."""
        for fixture in fixtures:
            del self._fixtures[fixture.id]

    def pair(self, fixture: Fixture, one: DeviceInfo, sure: Sure, why: str) -> None:
        self.pairs[fixture.id] = (one, sure, why)
        del self._fixtures[fixture.id]
        del self._said[id(one)]

    def take_told(self, told: Mapping[str, int]) -> None:
        by_name = {str(one.identity): one for one in self.said}
        for identity, fixture_id in told.items():
            fixture, one = self._fixtures.get(fixture_id), by_name.get(identity)
            if fixture is not None and one is not None and self.is_left(one):
                self.pair(fixture, one, Sure.CERTAIN, "somebody said so")

    def type_fits(self, fixture: Fixture, one: DeviceInfo) -> bool:
        """Whether they are of one type; a chart without a model, or one planned by its channels,
        fits by those."""
        profile = self.types[fixture.profile]
        if not plain(profile.model) or not one.model:
            return one.footprint in {mode.footprint for mode in profile.modes}
        return is_type(profile, one)

    def pair_unique(
        self,
        of_fixture: Callable[[Fixture], Hashable],
        of_said: Callable[[DeviceInfo], Hashable],
        sure: Sure,
        why: str,
        *,
        typed: bool = True,
    ) -> None:
        """Pair those whose key is theirs alone on both sides. An empty key is none."""
        ours, theirs = _grouped(self.fixtures, of_fixture), _grouped(self.said, of_said)
        for key, fixtures in ours.items():
            others = theirs.get(key, [])
            if len(fixtures) == len(others) == 1 and (
                not typed or self.type_fits(fixtures[0], others[0])
            ):
                self.pair(fixtures[0], others[0], sure, why)


T = TypeVar("T")


def _grouped(things: Sequence[T], key_of: Callable[[T], Hashable]) -> dict[Hashable, list[T]]:
    found: dict[Hashable, list[T]] = defaultdict(list)
    for thing in things:
        if key := key_of(thing):
            found[key].append(thing)
    return found


def identity_kept(fixture: Fixture) -> str:
    """The identity that was kept as a fixture's serial number; empty where that is none."""
    try:
        return str(read_identity(fixture.serial)) if fixture.serial else ""
    except EditError:
        return ""


def _by_identity(table: _Table) -> None:
    table.pair_unique(
        identity_kept,
        lambda one: str(one.identity),
        Sure.CERTAIN,
        "the identity kept from earlier",
        typed=False,
    )

    def digits(fixture: Fixture) -> str:
        found = re.search(r"(\d{3,})\D*$", fixture.serial)
        return found[1].lstrip("0") if found and not identity_kept(fixture) else ""

    table.pair_unique(
        digits,
        lambda one: str(one.identity.device),
        Sure.CERTAIN,
        "its serial number is its identity",
    )


def _without_one_of_its_own(table: _Table) -> None:
    """A fixture whose own device is known, and does not answer, is not taken for another: a spare
    is put there by hand."""
    table.leave_out([fixture for fixture in table.fixtures if identity_kept(fixture)])


def _by_label(table: _Table) -> None:
    table.pair_unique(
        lambda f: label_key(f.label),
        lambda one: label_key(one.label),
        Sure.CERTAIN,
        "label and type",
    )
    table.pair_unique(
        lambda f: label_key(f.label),
        lambda one: label_key(one.label),
        Sure.LIKELY,
        "its label; of another type",
        typed=False,
    )


def _by_address(table: _Table) -> None:
    def where(fixture: Fixture) -> Hashable:
        known = stands(fixture)
        slot = known.slots[0] if known and known.slots else fixture.start
        return (fixture.universe, slot) if slot else ()

    def planned(fixture: Fixture) -> Hashable:
        return (fixture.universe, fixture.start) if fixture.start else ()

    def at(one: DeviceInfo) -> Hashable:
        return (one.universe, one.address) if one.address else ()

    table.pair_unique(planned, at, Sure.LIKELY, "planned at that address, of that type")
    table.pair_unique(where, at, Sure.LIKELY, "set to that address, of that type")


def _alike(table: _Table) -> Iterator[tuple[list[Fixture], list[DeviceInfo]]]:
    """What is left, type by type and universe by universe."""
    groups: dict[tuple[str, int | None], list[Fixture]] = defaultdict(list)
    for fixture in table.fixtures:
        groups[fixture.profile, fixture.universe].append(fixture)
    by_universe: dict[int | None, list[DeviceInfo]] = defaultdict(list)
    for one in table.said:
        by_universe[one.universe].append(one)
    for (_, universe), fixtures in groups.items():
        near = table.said if universe is None else [*by_universe[universe], *by_universe[None]]
        theirs = [one for one in near if table.is_left(one) and table.type_fits(fixtures[0], one)]
        if theirs:
            yield fixtures, theirs


def _as_the_only_one(table: _Table) -> None:
    for fixtures, theirs in list(_alike(table)):
        if len(fixtures) == len(theirs) == 1 and table.is_left(theirs[0]):
            table.pair(fixtures[0], theirs[0], Sure.LIKELY, "the only one of its type that is left")


def _in_order(table: _Table) -> None:
    """As many of one type as are planned, each at its own address: they stand along the line as
    their addresses do."""
    place = _places(table.show)
    for fixtures, theirs in list(_alike(table)):
        theirs = [one for one in theirs if table.is_left(one)]
        addresses = {one.address for one in theirs}
        if len(fixtures) != len(theirs) or len(addresses) != len(theirs) or None in addresses:
            continue
        along = sorted(fixtures, key=lambda f: place[f.id])
        why = "the same place along the line as among the addresses"
        for fixture, one in zip(
            along, sorted(theirs, key=lambda one: one.address or 0), strict=True
        ):
            table.pair(fixture, one, Sure.GUESS, why)


def _places(show: Show) -> dict[int, tuple[int, int]]:
    """Where fixtures come along the cable: those on lines as they hang there, others as in the
    rig."""
    found: dict[int, tuple[int, int]] = {}
    for line in show.lines:
        for stop in wiring_of(line).behind(None):
            if stop.fixture is not None:
                found.setdefault(stop.fixture, (0, len(found)))
    for number, fixture in enumerate(show.fixtures):
        found.setdefault(fixture.id, (1, number))
    return found


def _as_they_come(table: _Table) -> None:
    """Those that cannot be told apart: each is one of them, until somebody looks which one
    blinks."""
    for fixtures, theirs in list(_alike(table)):
        theirs = sorted((one for one in theirs if table.is_left(one)), key=lambda one: one.identity)
        if not theirs:
            continue
        many = f"one of {len(theirs)} alike: identify it to see which"
        for fixture, one in zip(fixtures, theirs, strict=False):
            table.pair(fixture, one, Sure.ANY, many)


def differences(show: Show, fixture: Fixture, said: DeviceInfo) -> Iterator[str]:
    """What a device says that the plan does not."""
    profile, mode = show.profile_of(fixture), show.mode_of(fixture)
    if said.problem:
        yield said.problem.rstrip(".").lower()
        return
    if profile is not None and said.model and plain(profile.model) and not is_type(profile, said):
        yield f"is a {said.title}, planned is {profile.title}"
        return
    if profile is not None and mode is not None:
        theirs = mode_said(profile, said)
        if theirs is None and said.footprint != mode.footprint:
            yield (
                f"has {said.footprint} channels in “{said.mode or said.personality}”, planned "
                f"is “{mode.name}”"
            )
        elif theirs is not None and theirs != mode:
            yield f"is in mode “{theirs.name}”, planned is “{mode.name}”"
    for part, number in addresses_said(fixture, said):
        planned = fixture.patch[part].slot
        if planned is not None and number is not None and number != planned:
            yield f"says {number:03d}, planned is {planned:03d}"
    if said.universe is not None and fixture.universe not in (None, said.universe):
        yield f"hangs on U{said.universe}, planned is U{fixture.universe}"


def addresses_said(fixture: Fixture, said: DeviceInfo) -> list[tuple[int, int | None]]:
    """The number of each part that a device says: of a fixture in several parts its sub-devices are
    the parts."""
    if len(fixture.patch) > 1 and len(said.subs) == len(fixture.patch):
        return [(part, sub.address) for part, sub in enumerate(said.subs)]
    return [(0, said.address)]


def _missing(show: Show, fixture: Fixture, asked: Collection[int] | None) -> Missing:
    profile = show.profile_of(fixture)
    if profile is None or not profile.rdm:
        return Missing(fixture, "its chart says that it does not speak RDM", expected=False)
    for line in show.lines:
        stop = next((stop for stop in line.stops if stop.fixture == fixture.id), None)
        if stop is None:
            continue
        for before in wiring_of(line).path_to(stop.id):
            if before.device is not None and not before.rdm:
                return Missing(
                    fixture,
                    f"behind {name_of(show, before)}, which does not pass RDM",
                    expected=False,
                )
    if asked is not None and fixture.universe is not None and fixture.universe not in asked:
        return Missing(fixture, f"U{fixture.universe} was not asked", expected=False)
    if fixture.universe is None:
        return Missing(fixture, "it has no universe yet", expected=False)
    if kept := identity_kept(fixture):
        return Missing(
            fixture,
            f"its own device {kept} does not answer: power, plug, line, or swapped?",
            expected=True,
        )
    return Missing(
        fixture, "it should answer: look at its power, its plug and its line", expected=True
    )
