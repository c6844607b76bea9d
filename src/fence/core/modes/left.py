"""A fixture left in another mode than planned: what would be seen of it, channel by channel."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.address import SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Mode
from fence.core.model.show import Show, slot_meaning
from fence.core.model.text import from_to, joined

MOST_CONFUSED = 6
"""Slots that are told one by one; the rest is counted."""


@dataclass(frozen=True, slots=True)
class LeftInMode:
    """A fixture planned in one mode and left in another: what each would do, as sentences."""

    mode: str
    footprint: int
    sentences: tuple[str, ...]


def left_in_mode(show: Show, fixture: Fixture, mode_name: str) -> LeftInMode | None:
    """What would happen if the fixture were left in ``mode_name``; None where it cannot be said.

    Speaks of the first part only: it needs an address, and a chart for both modes.
    """
    planned, left = show.mode_of(fixture), show.modes.get((fixture.profile, mode_name))
    if planned is None or left is None or planned == left or fixture.start is None:
        return None
    if not planned.parts[0].channels or not left.parts[0].channels:
        return None
    start, meant, heard = fixture.start, planned.parts[0].footprint, left.parts[0].footprint
    sentences = _confused(planned, left, start)
    if heard > meant:
        sentences += _also_heard(show, fixture, left, start + meant, start + heard - 1)
    elif heard < meant:
        lost = [slot_meaning(planned, 0, offset) for offset in range(heard, meant)]
        sentences.append(
            f"{joined(lost).capitalize()} at {_span(start + heard, start + meant - 1)} would go "
            "unheard."
        )
    return LeftInMode(mode_name, left.footprint, tuple(sentences))


def _confused(planned: Mode, left: Mode, start: int) -> list[str]:
    """Slots that mean one thing on the desk and another at the fixture."""
    pairs = []
    for offset in range(min(planned.parts[0].footprint, left.parts[0].footprint)):
        meant, done = slot_meaning(planned, 0, offset), slot_meaning(left, 0, offset)
        if meant != done:
            pairs.append(f"{meant} on the desk, at {start + offset}, would move its {done}.")
    told = [pair[0].upper() + pair[1:] for pair in pairs[:MOST_CONFUSED]]
    if len(pairs) > MOST_CONFUSED:
        told.append(f"And {len(pairs) - MOST_CONFUSED} more channels would be mixed up.")
    if not pairs:
        told.append("The channels that both modes have would work as planned.")
    return told


def _also_heard(show: Show, fixture: Fixture, left: Mode, first: int, last: int) -> list[str]:
    """What the longer run would listen to beyond the planned one."""
    sentences = []
    sharers = {sharer.id for sharer in show.sharers_of(fixture)}
    for placed in show.runs_in(fixture.universe or 0):
        run, other = placed.run, placed.fixture
        low, high = max(first, run.first), min(last, run.last)
        mode = show.mode_of(other)
        if other.id in sharers or low > high or mode is None:
            continue
        theirs = [
            slot_meaning(mode, placed.part, slot - run.first) for slot in range(low, high + 1)
        ]
        mine = [slot_meaning(left, 0, slot - (fixture.start or 1)) for slot in range(low, high + 1)]
        sentences.append(
            f"It would listen to {other.label}’s {joined(theirs)} as its own {joined(mine)}."
        )
    if last > SLOTS:
        sentences.append(f"Its run would go {last - SLOTS} past the end of the universe.")
    if not sentences:
        sentences.append(f"It would also listen to {_span(first, last)}, where nothing is planned.")
    return sentences


def _span(first: int, last: int) -> str:
    return from_to(first, last)
