"""What there is to say of a scene beside its rig."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.profile import Profile


@dataclass(frozen=True, slots=True)
class Missing:
    """A type that a scene names and does not have, how many fixtures are of it, and the chart on
    the shelf whose name is nearest; None where none is near."""

    name: str
    fixtures: int
    nearest: Profile | None
