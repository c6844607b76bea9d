"""The picked fixture as values: its parts, slots, switches and what is wrong with it."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.checks import Analysis
from fence.core.model.address import Run
from fence.core.model.errors import SetterError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Profile, SetterKind
from fence.core.model.setter import Misreading, Switch, as_seen, misreadings
from fence.core.model.show import Show, slot_meaning
from fence.core.model.standing import State, stands_words, state_of
from fence.core.modes.left import LeftInMode, left_in_mode
from fence.web.address.asked import Asked
from fence.web.findings.problem import Problem, problem_of

SLOTS_LISTED = 48


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


def picked_of(show: Show, analysis: Analysis, fixture: Fixture, asked: Asked) -> Picked:
    mode, profile = show.mode_of(fixture), show.profile_of(fixture)
    footprints = show.footprints_of(fixture) or (0,)
    parts = tuple(
        PartLine(index, mode.parts[index].name if mode else "", patch, footprint)
        for index, (footprint, patch) in enumerate(zip(footprints, fixture.patch, strict=False))
    )
    part = parts[min(max(asked.part, 0), len(parts) - 1)]
    problems = tuple(
        problem_of(show, finding, chosen=finding.key == asked.finding)
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
