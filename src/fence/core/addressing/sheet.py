"""A universe slot by slot, as it is printed and handed over."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.address import SLOTS
from fence.core.model.profile import Channel, Mode
from fence.core.model.sharing import mover_of
from fence.core.model.show import PlacedRun, Show, slot_meaning


@dataclass(frozen=True, slots=True)
class SlotRow:
    """One slot: who listens to it, what it does there, and its level when nothing is chosen (0 to
    255).

    ``fixtures`` has more than one label where it is shared or contested; ``opens`` is True on a
    fixture's first slot. ``kept`` says what a reserved slot is kept for; ``clash`` when fixtures
    listen that do not share on purpose.
    """

    slot: int
    fixtures: tuple[str, ...]
    numbers: tuple[int, ...]
    function: str
    default: int | None
    opens: bool = False
    kept: str = ""
    clash: bool = False


def slot_sheet(show: Show, universe: int) -> list[SlotRow]:
    """All 512 slots of a universe in order."""
    listening: dict[int, list[PlacedRun]] = {}
    for placed in show.runs_in(universe):
        for slot in range(placed.run.first, min(placed.run.last, SLOTS) + 1):
            listening.setdefault(slot, []).append(placed)
    reserved = set(show.reserved_in(universe))
    return [
        _row(show, universe, slot, listening.get(slot, []), slot in reserved)
        for slot in range(1, SLOTS + 1)
    ]


def _row(
    show: Show, universe: int, slot: int, listening: list[PlacedRun], reserved: bool
) -> SlotRow:
    tell_tale = show.tell_tale if show.tell_tale and show.tell_tale.slot == slot else None
    kept, level = "reserved" if reserved else "", None
    if tell_tale is not None:
        level = tell_tale.level(universe)
        kept = f"tell-tale, {tell_tale.scale}" + ("" if level is not None else ": beyond the scale")
    if not listening:
        return SlotRow(slot, (), (), "", level, kept=kept)
    meanings = dict.fromkeys(_meaning(show, placed, slot) for placed in listening)
    movers = {mover_of(placed.fixture) for placed in listening}
    own = {
        (placed.fixture.id, placed.part)
        for placed in listening
        if placed.fixture.id == listening[0].fixture.id
    }
    first = listening[0]
    return SlotRow(
        slot,
        tuple(placed.fixture.label for placed in listening),
        tuple(placed.fixture.number for placed in listening if placed.fixture.number is not None),
        " / ".join(meanings),
        level if tell_tale else _default(show, first, slot),
        any(placed.run.first == slot for placed in listening),
        kept,
        len(movers) > 1 or len(own) > 1 or reserved,
    )


def _meaning(show: Show, placed: PlacedRun, slot: int) -> str:
    mode = show.mode_of(placed.fixture)
    return slot_meaning(mode, placed.part, slot - placed.run.first) if mode else "not known"


def _channel(mode: Mode, part: int, offset: int) -> Channel | None:
    channels = mode.parts[part].channels
    return channels[offset] if offset < len(channels) else None


def _default(show: Show, placed: PlacedRun, slot: int) -> int | None:
    mode = show.mode_of(placed.fixture)
    channel = _channel(mode, placed.part, slot - placed.run.first) if mode else None
    return channel.default if channel else None
