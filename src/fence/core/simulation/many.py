"""What very many fixtures of one mode do with a frame, all at once: the reckoning of
``practice.seen_of``, by columns.

It is worth its own way because a large rig has twenty thousand fixtures and a frame comes every 23
milliseconds; a test holds the two together, number by number.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fence.core.charts.vocabulary import EMITTERS, FILTERS
from fence.core.model.profile import Byte, Channel, Function, Mode
from fence.core.simulation.sight import (
    CLOSED_WORDS,
    HUES,
    LAMP,
    OF_A_LAMP,
    OPEN_WORDS,
    OWN_COLOUR,
    RUNS_ALONE,
    doing,
    range_at,
)

Numbers = NDArray[np.float64]
Levels = NDArray[np.uint8]


class Columns:
    """A mode made ready: which columns of levels count for what, and what each level of a stepped
    channel means."""

    def __init__(self, mode: Mode) -> None:
        self.channels = [channel for part in mode.parts for channel in part.channels]
        self.words: list[str] = [""]
        self.programs = [(at, self._table(channel)) for at, channel in self._of(RUNS_ALONE)]
        self.outputs = [(at, self._table(channel)) for at, channel in self._of({Function.OUTPUT})]
        self.shutters = [
            (at, *_shutter_table(channel)) for at, channel in self._of({Function.SHUTTER})
        ]
        functions = {channel.function for channel in self.channels}
        self.bulb = bool(functions & OF_A_LAMP)

    def _of(self, functions: set[Function]) -> list[tuple[int, Channel]]:
        return [
            (at, channel)
            for at, channel in enumerate(self.channels)
            if channel.function in functions
        ]

    def _table(self, channel: Channel) -> NDArray[np.intp]:
        """For each level the number of its words, 0 where it does nothing."""
        found = []
        for level in range(256):
            words = doing(channel, level)
            if words not in self.words:
                self.words.append(words)
            found.append(self.words.index(words))
        return np.array(found, dtype=np.intp)

    def value(self, levels: Levels, function: Function, cell: int | None = None) -> Numbers | None:
        """A function from 0 to 1 for each row, coarse and fine together; None where no channel
        carries it."""
        mine = [(at, c) for at, c in self._of({function}) if c.cell == cell]
        whole = [at for at, channel in mine if channel.byte is not Byte.FINE]
        fine = [at for at, channel in mine if channel.byte is Byte.FINE]
        if not whole:
            return None
        top: Numbers = levels[:, whole].max(axis=1).astype(np.float64)
        found: Numbers = (
            top / 255 if not fine else (top * 256 + levels[:, fine].max(axis=1)) / 65535
        )
        return found

    def light(
        self, levels: Levels, running: NDArray[np.bool_]
    ) -> tuple[list[tuple[str, Numbers]], NDArray[np.bool_]]:
        """The level of each emitter as it leaves the fixtures, by colour, and who flashes where
        lit."""
        count = len(levels)
        dimmer = self.value(levels, Function.DIMMER)
        gate, flashing = self._gate(levels)
        shown = np.where(running, 1.0, (np.ones(count) if dimmer is None else dimmer) * gate)
        cells = {
            channel.cell: self.value(levels, Function.DIMMER, channel.cell)
            for _, channel in self._of({Function.DIMMER})
            if channel.cell is not None
        }
        light: dict[tuple[str, int], Numbers] = {}
        for _, channel in self._of(set(EMITTERS)):
            value = self.value(levels, channel.function, channel.cell)
            held = cells.get(channel.cell) if channel.cell is not None else None
            own = np.ones(count) if held is None else np.where(running, 1.0, held)
            light[str(channel.function), channel.cell or 0] = (
                shown * own * (np.zeros(count) if value is None else value)
            )
        if not light and cells:
            for cell, level in cells.items():
                light[LAMP, cell or 0] = shown * np.where(
                    running, 1.0, 0.0 if level is None else level
                )
        elif not light and self.bulb:
            light[LAMP, 0] = shown
        return [(name, level) for (name, _), level in light.items()], flashing

    def _gate(self, levels: Levels) -> tuple[Numbers, NDArray[np.bool_]]:
        """Whether light passes, 0 or 1, and who flashes: the first shutter that says either."""
        gate = np.ones(len(levels))
        flashing = np.zeros(len(levels), dtype=np.bool_)
        open_ones = np.ones(len(levels), dtype=np.bool_)
        for at, closed, flashes, settled in self.shutters:
            level = levels[:, at]
            gate[open_ones & closed[level]] = 0.0
            flashing |= open_ones & flashes[level]
            open_ones &= ~settled[level]
        return gate, flashing

    def said(
        self, levels: Levels, tables: Sequence[tuple[int, NDArray[np.intp]]]
    ) -> NDArray[np.intp]:
        """For each row the number of the first words that a channel says."""
        found = np.zeros(len(levels), dtype=np.intp)
        for at, table in tables:
            found = np.where(found == 0, table[levels[:, at]], found)
        return found

    def seen(self, levels: Levels) -> tuple[list[tuple[int, int, int]], list[str]]:
        """The colour of each row, red, green and blue, and its state in words."""
        program = self.said(levels, self.programs)
        running = program > 0
        light, flashing = self.light(levels, running)
        mixed = np.zeros((len(levels), 3))
        intensity = np.zeros(len(levels))
        for name, level in light:
            for place, part in enumerate(HUES[name]):
                mixed[:, place] += part * level
            intensity = np.maximum(intensity, level)
        for place, function in enumerate((Function.CYAN, Function.MAGENTA, Function.YELLOW)):
            if function in FILTERS and (value := self.value(levels, function)) is not None:
                mixed[:, place] *= 1 - value
        strongest = np.maximum(mixed.max(axis=1), 1.0)
        colour = np.rint(mixed * np.minimum(1.0, 255 / strongest)[:, None])
        top = colour.max(axis=1)
        dark = (top == 0) | (intensity <= 0)
        with np.errstate(divide="ignore", invalid="ignore"):
            shown = np.rint(colour * (intensity * 255 / top)[:, None])
        shown = np.where((running & (top > 0))[:, None], colour, shown)
        shown = np.where((running & (top == 0))[:, None], OWN_COLOUR, shown)
        shown = np.where((dark & ~running)[:, None], 0, shown)
        red, green, blue = (shown[:, place].astype(np.int64).tolist() for place in range(3))
        return list(zip(red, green, blue, strict=True)), self._states(
            levels, program, dark, flashing
        )

    def seen_of(self, many: Sequence[bytes]) -> tuple[list[tuple[int, int, int]], list[str]]:
        """The same of levels as they come, each as many as the mode has slots."""
        flat = np.frombuffer(b"".join(many), dtype=np.uint8)
        return self.seen(flat.reshape(len(many), -1))

    def _states(
        self,
        levels: Levels,
        program: NDArray[np.intp],
        dark: NDArray[np.bool_],
        flashing: NDArray[np.bool_],
    ) -> list[str]:
        """What each row does, in words."""
        count = len(self.words)
        told = np.array(
            [
                *(f"own program: {one}" for one in self.words),
                *(one or "dark" for one in self.words),
                "flashes",
                "lit",
            ],
            dtype=object,
        )
        awake = np.where(flashing, 2 * count, 2 * count + 1)
        resting = count + self.said(levels, self.outputs)
        found: list[str] = told[
            np.where(program > 0, program, np.where(dark, resting, awake))
        ].tolist()
        return found


def _shutter_table(
    channel: Channel,
) -> tuple[NDArray[np.bool_], NDArray[np.bool_], NDArray[np.bool_]]:
    """For each level of a shutter: whether it is closed, whether it flashes, whether that settles
    the matter."""
    closed, flashes, settled = (np.zeros(256, dtype=np.bool_) for _ in range(3))
    for level in range(256):
        found = range_at(channel, level)
        words = found.meaning.lower() if found else ""
        if any(words.startswith(one) for one in CLOSED_WORDS):
            closed[level] = settled[level] = True
        elif found is None and not channel.ranges:
            settled[level], flashes[level] = True, bool(level)
        elif words and not any(words.startswith(steady) for steady in OPEN_WORDS):
            settled[level] = flashes[level] = True
    return closed, flashes, settled
