"""What a show asks of its fixtures: the features that it needs where, and whether modes should be
lean or full."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from fence.core.model.errors import EditError
from fence.core.model.profile import Byte, Function, Mode
from fence.core.model.text import check_text, printable, whole_number

FINE_MOVEMENT = "16-bit movement"
FINE_DIMMER = "16-bit dimmer"
CELLS = "cells apart"
NO_PROGRAMS = "no own programs"

_OWN_SHOW = {Function.PROGRAM, Function.SOUND}


def _has(function: Function) -> Callable[[Mode], bool]:
    return lambda mode: any(found is function for found, _, _ in mode.functions)


def _fine(mode: Mode, functions: set[Function]) -> bool:
    return any(function in functions and byte is Byte.FINE for function, _, byte in mode.functions)


FEATURES: dict[str, Callable[[Mode], bool]] = {
    **{str(function): _has(function) for function in Function if function is not Function.OTHER},
    FINE_MOVEMENT: lambda mode: _fine(mode, {Function.PAN, Function.TILT}),
    FINE_DIMMER: lambda mode: _fine(mode, {Function.DIMMER}),
    CELLS: lambda mode: len({cell for _, cell, _ in mode.functions} - {None}) > 1,
    NO_PROGRAMS: lambda mode: (
        bool(mode.functions) and not any(f in _OWN_SHOW for f, _, _ in mode.functions)
    ),
}
"""Each feature that can be asked for, and whether a mode has it. A mode without a chart has
none."""


class ModeSchool(StrEnum):
    """``lean``: the fewest channels that still have what is needed. ``full``: the most that the
    fixture can do."""

    LEAN = "lean"
    FULL = "full"


class Scope(StrEnum):
    """Whom a need speaks of, from all to one. The narrower one decides where both name a school."""

    SHOW = "show"
    POSITION = "position"
    TYPE = "type"
    GROUP = "group"
    FIXTURE = "fixture"


@dataclass(frozen=True, slots=True)
class Need:
    """Features that fixtures must have, and the school for them where it differs.

    ``key`` is the position's name, the profile's id, the sharing group, or the fixture's id as
    digits; empty for all.
    """

    scope: Scope = Scope.SHOW
    key: str = ""
    features: tuple[str, ...] = ()
    school: ModeSchool | None = None

    def __post_init__(self) -> None:
        for feature in self.features:
            if feature not in FEATURES:
                raise EditError(
                    f"“{feature[:60]}” is not a feature. Accepted: {', '.join(FEATURES)}."
                )
        if (self.scope is Scope.SHOW) != (not self.key):
            raise EditError(
                "A need names a position, a type, a group or a fixture, or it holds for all."
            )
        check_text("name in a need", self.key, required=False)
        if self.scope is Scope.FIXTURE and str(whole_number(self.key)) != self.key:
            raise EditError(
                f"“{printable(self.key[:40])}” is not a fixture's id. Use whole numbers from 1."
            )
        ordered = tuple(feature for feature in FEATURES if feature in self.features)
        object.__setattr__(self, "features", ordered)


def features_of(mode: Mode) -> frozenset[str]:
    """The features that a mode has."""
    return frozenset(feature for feature, held in FEATURES.items() if held(mode))
