"""Which mode has what is needed, on the fewest channels."""

from __future__ import annotations

from random import Random

from fence.core.model.fixture import Fixture
from fence.core.model.needs import FEATURES, ModeSchool, Need, features_of
from fence.core.model.profile import Mode, Profile
from fence.core.model.show import Show
from fence.core.model.text import counted, joined
from fence.core.modes.advice import recommend
from fence.core.practising.question import Kind, Question, question

MOST_TOLD = 60
WANTED = {1: (1, 1), 2: (2, 3), 3: (3, 5)}
"""How many things are asked for, by level: at least and at most."""


def lean_mode(profile: Profile, features: tuple[str, ...]) -> str | None:
    """The mode that is advised for a type where some features are needed and few channels are
    wanted."""
    fixture = Fixture(1, "One", profile.id, profile.modes[0].name)
    need = Need(features=features, school=ModeSchool.LEAN)
    show = Show("One", profiles=(profile,), fixtures=(fixture,), needs=(need,))
    return recommend(show, fixture).mode


def which_mode(rig: Show, chance: Random, level: int) -> Question | None:
    """A type of several modes with charts, and what the show needs of it."""
    known = [
        profile
        for profile in rig.profiles
        if len({mode.footprint for mode in profile.modes if features_of(mode)}) > 1
    ]
    if not known:
        return None
    profile = chance.choice(known)
    charted = [mode for mode in profile.modes if features_of(mode)]
    had = sorted(features_of(chance.choice(charted)))
    low, high = WANTED[level]
    wanted = tuple(sorted(chance.sample(had, min(len(had), chance.randint(low, high)))))
    best = lean_mode(profile, wanted)
    right = next(mode for mode in profile.modes if mode.name == best)
    alike = [
        mode.name
        for mode in charted
        if mode.footprint == right.footprint and _has(mode, wanted) and mode.name != best
    ]
    slips = []
    for mode in charted:
        lacks = [feature for feature in wanted if not FEATURES[feature](mode)]
        if lacks:
            slips.append((mode.name, f"it lacks {joined(lacks, most=6)}"))
        elif mode.footprint > right.footprint:
            more = mode.footprint - right.footprint
            slips.append((mode.name, f"it has all, on {counted(more, 'channel')} more"))
    return question(
        f"The show needs {joined(list(wanted), most=6)} of {profile.title}, and channels are "
        "short. Which mode?",
        Kind.CHOICE,
        [right.name, *alike],
        f"{right.name} has {joined(list(wanted), most=6)} on "
        f"{counted(right.footprint, 'channel')}, the fewest that do.",
        slips,
        choices=[mode.name for mode in charted],
        facts=[
            f"{mode.name}: {counted(mode.footprint, 'channel')}, {_about(mode)}" for mode in charted
        ],
    )


def _has(mode: Mode, wanted: tuple[str, ...]) -> bool:
    return all(FEATURES[feature](mode) for feature in wanted)


def _about(mode: Mode) -> str:
    return joined(sorted(features_of(mode)), most=MOST_TOLD)
