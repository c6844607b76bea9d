"""A guided round for fixtures that are set one at a time over one cable: all that were plugged in
would take it."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.fixture import Fixture
from fence.core.model.profile import Profile, SetterKind
from fence.core.model.show import Show
from fence.core.model.standing import DONE, State, state_of


@dataclass(frozen=True, slots=True)
class Round:
    """Those who are set one after the other, the one whose turn it is, and how many are done."""

    fixtures: tuple[Fixture, ...]
    current: Fixture | None
    done: int


def alone(show: Show, fixture: Fixture) -> bool:
    """Whether a fixture must be the only one plugged in while it is set, as its chart says."""
    profile = show.profile_of(fixture)
    return profile is not None and _alone(profile)


def _alone(profile: Profile) -> bool:
    setter = profile.setter
    return setter.one_at_a_time and setter.kind is not SetterKind.FIXED


def anyone_alone(show: Show) -> bool:
    """Whether a show has fixtures that must be set one at a time."""
    kinds = {profile.id for profile in show.profiles if _alone(profile)}
    return bool(kinds) and any(fixture.profile in kinds for fixture in show.fixtures)


def round_of(show: Show, at: str | None = None, turn: int | None = None) -> Round:
    """The round at a position, or through the whole show. ``turn`` asks for one of them, else the
    first not done."""
    here = [f for f in show.fixtures if alone(show, f) and (at is None or f.position == at)]
    states = {fixture.id: state_of(show, fixture) for fixture in here}
    fixtures = tuple(fixture for fixture in here if states[fixture.id] is not State.UNPLANNED)
    open_ones = [fixture for fixture in fixtures if states[fixture.id] not in DONE]
    asked = next((fixture for fixture in fixtures if fixture.id == turn), None)
    return Round(fixtures, asked or next(iter(open_ones), None), len(fixtures) - len(open_ones))
