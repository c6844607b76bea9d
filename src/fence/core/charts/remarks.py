"""Checks on a chart: what contradicts itself, and what will surprise at the desk."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

from fence.core.charts.vocabulary import COLOURS
from fence.core.charts.words import every
from fence.core.checks.finding import Severity
from fence.core.model.address import SLOTS
from fence.core.model.errors import ChartError
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile
from fence.core.model.text import counted

OWN_SHOW = {Function.PROGRAM, Function.SOUND}
IDLE_WORDS = every("idle")
CHARTS_KEPT = 512
"""Charts whose remarks are kept: a chart never changes, and a shelf is looked at again and again."""


@dataclass(frozen=True, slots=True)
class ChartRemark:
    """What a check says of a chart: which mode, which channel (from 1; None for the whole mode), and what."""

    severity: Severity
    mode: str
    channel: int | None
    text: str


@lru_cache(CHARTS_KEPT)
def check_chart(profile: Profile) -> tuple[ChartRemark, ...]:
    """All remarks on a chart, mode by mode. Modes known by their footprint only have nothing to check."""
    remarks: list[ChartRemark] = []
    seen: dict[int, str] = {}
    for mode in profile.modes:
        if mode.footprint and mode.footprint in seen:
            takes = counted(mode.footprint, "channel")
            text = f"Takes {takes} like {seen[mode.footprint]}: only the name tells them apart."
            remarks.append(ChartRemark(Severity.NOTE, mode.name, None, text))
        seen.setdefault(mode.footprint, mode.name)
        channels = [channel for part in mode.parts for channel in part.channels]
        remarks += _whole_mode(mode, channels)
        for place, channel in enumerate(channels, 1):
            remarks += [
                ChartRemark(severity, mode.name, place, text)
                for severity, text in (*_pairing(channels, place - 1), *_ranges(channel))
            ]
    return tuple(remarks)


def _whole_mode(mode: Mode, channels: list[Channel]) -> Iterator[ChartRemark]:
    light = COLOURS | {Function.DIMMER, Function.PIXEL, Function.OUTPUT, Function.SHUTTER}
    if channels and not any(channel.function in light for channel in channels):
        text = "Has neither a dimmer nor colours: is it complete?"
        yield ChartRemark(Severity.CAUTION, mode.name, None, text)


def _pairing(channels: list[Channel], index: int) -> Iterator[tuple[Severity, str]]:
    """A fine byte needs its coarse, and most desks want it right behind it."""
    channel = channels[index]
    if channel.byte is not Byte.FINE:
        return
    kin = (channel.function, channel.cell)
    coarse = [
        place
        for place in range(index)
        if channels[place].byte is Byte.COARSE and (channels[place].function, channels[place].cell) == kin
    ]
    if not coarse:
        yield Severity.STOP, f"{channel.title} has no coarse byte before it."
    elif coarse[-1] != index - 1:
        yield Severity.NOTE, f"{channel.title} does not stand right behind its coarse byte."


def _ranges(channel: Channel) -> Iterator[tuple[Severity, str]]:
    ranges = sorted(channel.ranges, key=lambda found: found.first)
    reached = ranges[0].last if ranges else 0
    for found in ranges[1:]:
        if found.first <= reached:
            yield Severity.STOP, f"Levels {found.first} to {min(reached, found.last)} have two meanings."
        elif found.first > reached + 1:
            yield Severity.NOTE, f"Levels {reached + 1} to {found.first - 1} have no meaning."
        reached = max(reached, found.last)
    held = next((found for found in ranges if found.first <= channel.default <= found.last), None)
    if ranges and held is None:
        yield Severity.CAUTION, f"The default {channel.default} lies in no range."
    if channel.function in OWN_SHOW and held is not None and not any(w in held.meaning.lower() for w in IDLE_WORDS):
        yield (
            Severity.CAUTION,
            f"The default {channel.default} is “{held.meaning}”: the fixture would run its own show.",
        )


def repeated(mode: Mode, first: int, last: int, times: int) -> Mode:
    """The mode with channels ``first`` to ``last`` (from 1) as often as cells are fitted, numbered as cells.

    For devices whose footprint depends on what is fitted: pixels, outputs, servos. Raises ``ChartError`` where the
    channels are not there, or the result would have more than 512 slots.
    """
    channels = mode.parts[0].channels
    if len(mode.parts) != 1 or not 1 <= first <= last <= len(channels):
        raise ChartError(f"{mode.name} has channels 1 to {len(channels)}. Use two of them, low first.")
    before, again, after = channels[: first - 1], channels[first - 1 : last], channels[last:]
    count = len(before) + len(again) * times + len(after)
    if times < 1 or count > SLOTS:
        most = (SLOTS - len(before) - len(after)) // len(again)
        raise ChartError(f"{times} times would make {count} channels. Use 1 to {most} times.")
    cells = tuple(replace(channel, cell=cell) for cell in range(1, times + 1) for channel in again)
    return Mode(f"{count} channel, {times} cells", (Part(count, (*before, *cells, *after)),))
