"""How good a reading is as a whole, by what a chart must be: numbers that run without a gap, counts
that are met, functions that are known, levels in order, little that is left over."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

from fence.core.charts.draft import Building, Taken
from fence.core.charts.sheet import Sheet
from fence.core.charts.words import UNUSED, any_of, every
from fence.core.model.profile import Channel, Function

KNOWN, NAMED, MISSING, OFF_COUNT = 1.0, 0.25, -1.5, -2.0
FINE_PAIR, RANGES, DISORDER = 0.3, 0.5, -0.7
BEGUN_LATE, CUT_SHORT = -0.7, -0.4
EACH_RANGE, MOST_RANGES = 0.1, 5
LEVELS = 256
LOST, GUESSED = -0.45, -0.1
A_MODE, UNSAID = -0.5, -1.0
"""What a further mode takes: a chart that falls apart into many is no better for it, least of all where nothing says
that a mode begins."""
FEWEST, SURE_SHARE = 3, 0.25
"""From how many channels on, and below which share of sure ones among them, a text is hardly a chart (practice)."""
_SEVERAL = re.compile(r"[^,;]+[,;][^,;]+[,;]\s*\w|^=|\b(?:" + any_of("each") + r")$", re.I)
"""Several functions named as one channel's: a line that was not taken apart."""
BETTER = 1.0
"""By how much another way must be better than the text as it stands (practice)."""
CLOSE = 1.5
"""Readings that are nearer to each other than this leave what differs between them in doubt (practice)."""


def weight_of(sheet: Sheet) -> float:
    """How good a reading is; the more the better, 0 for none."""
    modes = sheet.kept_modes()
    lines = [taken for taken, _ in sheet.readings.values()]
    unsaid = sum(not mode.firm and not mode.name and mode.declared is None for mode in modes[1:])
    found = sum(_of_mode(mode) for mode in modes) + A_MODE * len(modes[1:]) + UNSAID * unsaid
    return found + LOST * lines.count(Taken.LOST) + GUESSED * lines.count(Taken.GUESS)


def is_hardly_one(sheet: Sheet) -> bool:
    """Whether so little of what was read is surely a channel that the text may be something else: a price list, a cue
    list, switches, pins."""
    if not sheet.labels.isdisjoint(every("labels")):
        return True
    slots = [slot for mode in sheet.kept_modes() for slot in mode.slots.values()]
    sure = sum(
        slot.channel.function is not Function.OTHER and sheet.readings.get(slot.line, (None,))[0] is Taken.SURE
        for slot in slots
    )
    return len(slots) >= FEWEST and sure < SURE_SHARE * len(slots)


def _of_mode(mode: Building) -> float:
    slots = mode.slots
    last = max(slots)
    channels = [slots[number].channel for number in sorted(slots)]
    found = sum(map(_of_channel, channels)) + MISSING * (last - len(slots))
    if mode.declared is not None and mode.declared != last:
        found += OFF_COUNT
    return found + FINE_PAIR * _pairs(channels)


def _of_channel(channel: Channel) -> float:
    known = KNOWN if channel.function is not Function.OTHER and not _SEVERAL.search(channel.name) else NAMED
    ranges = channel.ranges
    if not ranges:
        return known
    if UNUSED.search(channel.name):
        return known + DISORDER
    if any(a.last >= b.first for a, b in pairwise(ranges)):
        return known + DISORDER
    covered = sum(
        (after if one.first == one.last else one.last + 1) - one.first
        for one, after in zip(ranges, [*(one.first for one in ranges[1:]), LEVELS], strict=True)
    )
    known += RANGES * covered / LEVELS + EACH_RANGE * min(len(ranges) - 1, MOST_RANGES)
    if ranges[0].first > 0:
        known += BEGUN_LATE
    return known + (CUT_SHORT if covered < LEVELS / 2 else 0)


def _pairs(channels: Sequence[Channel]) -> int:
    """Fine bytes right behind their coarse ones."""
    return sum(after.byte.value == "fine" and after.function is before.function for before, after in pairwise(channels))
