"""What a filled sheet is as a chart: channels, ranges, cells where colours repeat, and what stays
in doubt."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

from fence.core.charts.vocabulary import EMITTERS
from fence.core.model.profile import Byte, Channel, Function, Range

IDLE = "no function"


@dataclass(frozen=True, slots=True)
class Found:
    """What the sheet found: the channels from slot 1 on, and what is in doubt. ``observations``
    counts the answers."""

    channels: tuple[Channel, ...]
    doubts: tuple[str, ...]
    observations: int


def chart_of(
    answered: Mapping[int, Function],
    fine: Collection[int],
    levels: Mapping[int, list[tuple[int, str]]],
    observations: int,
) -> Found:
    """The channels that the answers make: the function of each slot, which slots are fine bytes,
    where ranges begin."""
    footprint = max(answered, default=0)
    doubts = []
    cells = _cells(answered, fine)
    with_fine = {answered[slot]: slot for slot in fine}
    channels = []
    for slot in range(1, footprint + 1):
        function = answered.get(slot, Function.OTHER)
        byte = Byte.FINE if slot in fine else Byte.COARSE if function in with_fine else Byte.WHOLE
        if function is Function.OTHER and slot not in answered:
            doubts.append(f"Slot {slot} did nothing that was seen.")
        channels.append(
            Channel(function, cell=cells.get(slot), byte=byte, ranges=_ranges(levels.get(slot, [])))
        )
    if footprint:
        doubts.append(
            f"Slots from {footprint + 1} on did nothing: if the fixture has more, they are "
            "missing here."
        )
    else:
        doubts.append("Nothing answered: is it on, is it listening to DMX, is its address 1?")
    return Found(tuple(channels), tuple(doubts), observations)


def _ranges(steps: Iterable[tuple[int, str]]) -> tuple[Range, ...]:
    begins = list(steps)
    ends = [first - 1 for first, _ in begins[1:]] + [255]
    return tuple(
        Range(first, last, words or IDLE)
        for (first, words), last in zip(begins, ends, strict=False)
    )


def _cells(answered: Mapping[int, Function], fine: Collection[int]) -> dict[int, int]:
    """Cell numbers, where colours repeat: each time a colour comes again, the next cell begins."""
    colours = [slot for slot in sorted(answered) if answered[slot] in EMITTERS and slot not in fine]
    if len({answered[slot] for slot in colours}) == len(colours):
        return {}
    cells, cell, seen = {}, 1, set[Function]()
    for slot in colours:
        if answered[slot] in seen:
            cell, seen = cell + 1, set()
        seen.add(answered[slot])
        cells[slot] = cell
    return cells
