"""Modes side by side, and what happens when a fixture is left in another mode than the plan
says."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from fence.core import edits
from fence.core.charts.vocabulary import COLOURS
from fence.core.checks import Severity, analyse
from fence.core.model.once import once_a_show
from fence.core.model.profile import Byte, Function, Mode, Profile
from fence.core.model.show import Show
from fence.core.modes.combine import universes_needed


@dataclass(frozen=True, slots=True)
class FeatureRow:
    """A feature and where each mode has it: the channels, from 1, as text; empty where the mode
    lacks it."""

    title: str
    places: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ModeColumn:
    """A mode in the comparison. ``stops`` is how many stops the show would have with all its
    fixtures in it; ``universes`` how many the whole show would take then, laid out anew.
    """

    mode: Mode
    used: int
    for_all: int
    universes: int
    stops: int
    gains: tuple[str, ...]
    losses: tuple[str, ...]
    remarks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Comparison:
    """All modes of a profile, feature by feature, as seen from the mode that most fixtures are
    in."""

    base: Mode
    fixtures: int
    rows: tuple[FeatureRow, ...]
    columns: tuple[ModeColumn, ...]


@once_a_show
def compare_modes(show: Show, profile: Profile) -> Comparison:
    """Put a profile's modes side by side for the fixtures of this show."""
    fixtures = [fixture for fixture in show.fixtures if fixture.profile == profile.id]
    used = Counter(fixture.mode for fixture in fixtures)
    base = max(profile.modes, key=lambda mode: (used[mode.name], -mode.footprint))
    features = {mode.name: _features(mode) for mode in profile.modes}
    functions = dict.fromkeys(
        function for mode in profile.modes for function in features[mode.name]
    )
    rows = tuple(
        FeatureRow(
            str(function),
            tuple(str(features[mode.name].get(function, "")) for mode in profile.modes),
        )
        for function in functions
    )
    columns = []
    for mode in profile.modes:
        mine, theirs = features[mode.name], features[base.name]
        after = edits.choose_modes(show, {fixture.id: mode.name for fixture in fixtures})
        columns.append(
            ModeColumn(
                mode,
                used[mode.name],
                mode.footprint * len(fixtures),
                universes_needed(after),
                _stops_in(after),
                _more_in(mine, theirs),
                _more_in(theirs, mine),
                tuple(_remarks(mode)),
            )
        )
    return Comparison(base, len(fixtures), rows, tuple(columns))


@dataclass(frozen=True, slots=True)
class _Feature:
    """A function as a mode has it: its channels from 1, whether it has a fine byte, how many cells
    it is in."""

    places: tuple[int, ...]
    fine: bool
    cells: int

    def __str__(self) -> str:
        shown = ", ".join(map(str, self.places[:4])) + (" …" if len(self.places) > 4 else "")
        marks = [
            mark
            for mark, there in (("16 bit", self.fine), (f"{self.cells} cells", self.cells > 1))
            if there
        ]
        return f"{shown} ({', '.join(marks)})" if marks else shown


def _features(mode: Mode) -> dict[Function, _Feature]:
    """The functions of a mode in the order of their first channel."""
    numbered = list(enumerate((channel for part in mode.parts for channel in part.channels), 1))
    features = {}
    for function in dict.fromkeys(channel.function for _, channel in numbered):
        mine = [(place, channel) for place, channel in numbered if channel.function is function]
        cells = {channel.cell for _, channel in mine} - {None}
        fine = any(channel.byte is Byte.FINE for _, channel in mine)
        features[function] = _Feature(tuple(place for place, _ in mine), fine, len(cells))
    return features


def _more_in(mine: dict[Function, _Feature], other: dict[Function, _Feature]) -> tuple[str, ...]:
    """What a mode has beyond another, in words."""
    words = []
    for function, feature in mine.items():
        held = other.get(function)
        if held is None:
            words.append(f"{function}, 16 bit" if feature.fine else str(function))
        elif feature.fine and not held.fine:
            words.append(f"16 bit for {function}")
        if feature.cells > max(1, held.cells if held else 0):
            words.append(f"{function} in {feature.cells} cells apart")
    return tuple(words)


def _remarks(mode: Mode) -> list[str]:
    functions = {function for function, _, _ in mode.functions}
    remarks = []
    if functions and Function.DIMMER not in functions and functions & COLOURS:
        remarks.append(
            "No dimmer channel: brightness only through the colours; the desk must do it."
        )
    if functions & {Function.PROGRAM, Function.SOUND}:
        remarks.append("Can run its own programs: keep that channel where it has no function.")
    if mode.footprint and not functions:
        remarks.append("What its channels do is not known.")
    return remarks


def _stops_in(show: Show) -> int:
    """Stops of a show, as many as are counted."""
    return sum(1 for finding in analyse(show).findings if finding.severity is Severity.STOP)
