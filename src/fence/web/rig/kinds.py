"""The types and modes that can be chosen: those of the show, and below their ids those of the
library."""

from __future__ import annotations

from wtforms.fields.choices import SelectChoice

from fence.core.model.errors import EditError
from fence.core.model.profile import Profile
from fence.core.model.show import Show
from fence.web.pages import library

KIND_JOIN = " | "
"""Stands between the id of a type and the name of its mode."""


def available(show: Show) -> list[Profile]:
    """The types of the show, and those of the library that it has not."""
    held = {profile.id for profile in show.profiles}
    found = [
        *show.profiles,
        *(profile for profile in library().profiles() if profile.id not in held),
    ]
    return sorted(found, key=lambda profile: (profile.title.casefold(), profile.id))


def kind_choices(show: Show) -> list[SelectChoice]:
    """Every type with every mode, by type."""
    return [
        SelectChoice(
            f"{profile.id}{KIND_JOIN}{mode.name}",
            f"{profile.title}, {mode.name} ({mode.footprint} ch)",
            optgroup=profile.title,
        )
        for profile in available(show)
        for mode in profile.modes
    ]


def kind_named(show: Show, words: str) -> tuple[Profile, str]:
    """The type and the mode of a choice. ``EditError`` where there is no such type."""
    profile_id, _, mode = words.partition(KIND_JOIN)
    profile = next((profile for profile in available(show) if profile.id == profile_id), None)
    if profile is None:
        raise EditError("Choose a fixture and its mode from the list.")
    return profile, mode
