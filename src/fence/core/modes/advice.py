"""Which mode for a fixture: what is asked of it, what each mode gives, and the one to take, with
reasons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from fence.core.checks.desk import matches_layout
from fence.core.model.address import SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.needs import NO_PROGRAMS, ModeSchool, Need, Scope, features_of
from fence.core.model.once import once_a_show
from fence.core.model.profile import Mode
from fence.core.model.show import Show


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is asked of a fixture: all features that any need names for it, and the school that is
    nearest to it.

    ``said`` is False where no need speaks of it at all.
    """

    features: tuple[str, ...]
    school: ModeSchool
    said: bool = True


def wanted_of(show: Show, fixture: Fixture) -> Wanted:
    """What the show's needs ask of a fixture; lean where nothing else is said."""
    return _wanted(_needs_of(show, fixture))


@once_a_show
def wanted_of_each(show: Show) -> dict[int, Wanted]:
    """What the show's needs ask of every fixture, by its id."""
    if not show.needs:
        return dict.fromkeys(show.fixture_by_id, _wanted(()))
    return {fixture.id: wanted_of(show, fixture) for fixture in show.fixtures}


_KEYS: dict[Scope, Callable[[Fixture], str]] = {
    Scope.SHOW: lambda fixture: "",
    Scope.POSITION: lambda fixture: fixture.position,
    Scope.TYPE: lambda fixture: fixture.profile,
    Scope.GROUP: lambda fixture: fixture.share,
    Scope.FIXTURE: lambda fixture: str(fixture.id),
}
"""What a need of each scope names, from the widest scope to the narrowest."""


@once_a_show
def _needs_by_scope(show: Show) -> list[tuple[Callable[[Fixture], str], dict[str, list[Need]]]]:
    """The needs by what they name, scope by scope; scopes that nobody has used are left out."""
    found = []
    for scope, key_of in _KEYS.items():
        named: dict[str, list[Need]] = {}
        for need in show.needs:
            if need.scope is scope:
                named.setdefault(need.key, []).append(need)
        if named:
            found.append((key_of, named))
    return found


def _needs_of(show: Show, fixture: Fixture) -> tuple[Need, ...]:
    """The needs that speak of a fixture, the wider ones first."""
    return tuple(
        need for key_of, named in _needs_by_scope(show) for need in named.get(key_of(fixture), ())
    )


@lru_cache(maxsize=4096)
def _wanted(needs: tuple[Need, ...]) -> Wanted:
    features: dict[str, None] = {}
    school, said = ModeSchool.LEAN, False
    for need in needs:
        features.update(dict.fromkeys(need.features))
        school = need.school or school
        said = said or bool(need.features) or need.school is not None
    return Wanted(tuple(features), school, said)


@dataclass(frozen=True, slots=True)
class Offer:
    """A mode that a fixture could take. ``lacks`` names what is wanted and not there; ``worth``
    counts features."""

    mode: Mode
    features: frozenset[str]
    lacks: tuple[str, ...]
    worth: int


@lru_cache(maxsize=4096)
def _features(mode: Mode) -> frozenset[str]:
    return features_of(mode)


def offers_of(show: Show, fixture: Fixture, wanted: Wanted | None = None) -> tuple[Offer, ...]:
    """The modes worth considering, smallest first: those that the desk can use and that lack the
    least.

    Empty for a fixture whose chart is missing, or which has no mode that the desk can use.
    """
    profile = show.profile_of(fixture)
    if profile is None:
        return ()
    wanted = wanted or wanted_of(show, fixture)
    usable = [mode for mode in profile.modes if _usable(show, mode)]
    lacking = {
        mode.name: tuple(f for f in wanted.features if f not in _features(mode)) for mode in usable
    }
    least = min(map(len, lacking.values()), default=0)
    best = sorted(
        (mode for mode in usable if len(lacking[mode.name]) == least),
        key=lambda mode: mode.footprint,
    )
    offers = []
    for rank, mode in enumerate(best):
        features = _features(mode)
        # the fullest mode is worth one more, so that it is preferred where features do not tell
        worth = (len(features) if features else rank) + (mode is best[-1])
        offers.append(Offer(mode, features, lacking[mode.name], worth))
    return tuple(offers)


def _usable(show: Show, mode: Mode) -> bool:
    desk = show.desk
    if any(part.footprint > min(SLOTS, desk.highest) for part in mode.parts):
        return False
    if desk.page is not None and any(part.footprint > desk.page for part in mode.parts):
        return False
    return not (desk.layout and mode.footprint) or matches_layout(mode, desk.layout)


NOTHING_ASKED = "Nothing is asked of it yet: say first what the show needs."


@dataclass(frozen=True, slots=True)
class Recommendation:
    """The mode that a fixture should take under its school, and why: the same for all of its kind.
    ``mode`` is None where no mode can be used."""

    now: str
    mode: str | None
    wanted: Wanted
    reasons: tuple[str, ...]


def recommend(show: Show, fixture: Fixture) -> Recommendation:
    """The smallest mode that has all that is wanted (lean), or the largest (full); as it is where
    nothing is asked."""
    wanted = wanted_of(show, fixture)
    offers = offers_of(show, fixture, wanted)
    if not offers:
        profile = show.profile_of(fixture)
        desk = show.desk.name or "the desk"
        why = (
            f"No mode of {profile.title} can be used on {desk}."
            if profile
            else "Its chart is missing."
        )
        return Recommendation(fixture.mode, None, wanted, (why,))
    if not wanted.said:
        return Recommendation(fixture.mode, fixture.mode, wanted, (NOTHING_ASKED,))
    chosen = offers[0] if wanted.school is ModeSchool.LEAN else offers[-1]
    return Recommendation(
        fixture.mode, chosen.mode.name, wanted, _reasons(show, fixture, chosen, offers)
    )


@once_a_show
def recommend_all(show: Show) -> dict[int, Recommendation]:
    """What is recommended for each fixture, by id, in the order of the rig; worked out once for all
    that are of one type and mode and of which the same is asked."""
    known: dict[tuple[str, str, int], Recommendation] = {}
    found = {}
    for fixture, wanted in zip(show.fixtures, wanted_of_each(show).values(), strict=True):
        kind = (fixture.profile, fixture.mode, id(wanted))
        one = known.get(kind)
        if one is None:
            one = known[kind] = recommend(show, fixture)
        found[fixture.id] = one
    return found


def _reasons(
    show: Show, fixture: Fixture, chosen: Offer, offers: Sequence[Offer]
) -> tuple[str, ...]:
    wanted = wanted_of(show, fixture)
    reasons = []
    held = [feature for feature in wanted.features if feature not in chosen.lacks]
    if held:
        reasons.append(f"Has {', '.join(held)}.")
    if chosen.lacks:
        reasons.append(f"No usable mode has {', '.join(chosen.lacks)} as well.")
    if len(offers) > 1:
        order = "fewest" if wanted.school is ModeSchool.LEAN else "most"
        which = "that lack no more than that" if chosen.lacks else "that do"
        reasons.append(
            f"Of {len(offers)} modes {which}, it has the {order} channels: {chosen.mode.footprint}."
        )
    now = show.mode_of(fixture)
    if now is not None and now.name != chosen.mode.name:
        gone = sorted(_features(now) - chosen.features - {NO_PROGRAMS})
        gained = sorted(chosen.features - _features(now) - {NO_PROGRAMS})
        if gone:
            reasons.append(f"Gives up {', '.join(gone)}.")
        if gained:
            reasons.append(f"Gains {', '.join(gained)}.")
    return tuple(reasons)
