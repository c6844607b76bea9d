"""Random fixture types, written with the library of the standard, and what each slot of them is.

What is expected is noted while a type is put together, slot by slot; nothing of Fence's reader is
used.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from random import Random
from typing import Any

import pygdtf

KNOWN = {
    "Dimmer": "dimmer",
    "Pan": "pan",
    "Tilt": "tilt",
    "ColorAdd_R": "red",
    "ColorAdd_G": "green",
    "ColorAdd_B": "blue",
    "ColorAdd_W": "white",
    "ColorAdd_RY": "amber",
    "ColorAdd_UV": "uv",
    "ColorSub_C": "cyan",
    "Zoom": "zoom",
    "Focus1": "focus",
    "Focus2": "focus",
    "Iris": "iris",
    "Gobo1": "gobo",
    "Gobo2": "gobo",
    "Gobo1Pos": "gobo rotation",
    "Prism1": "prism",
    "Color1": "colour wheel",
    "Color2": "colour wheel",
    "Shutter1": "shutter/strobe",
    "CTO": "cct",
    "Frost1": "frost",
    "Fan1": "fan",
    "FixtureGlobalReset": "reset",
}
"""Attributes of the standard, and what a lighting technician calls what they do."""
STRANGE = ("BladeSoft3A", "VideoBoost_R", "Whirl", "HSB_Hue")
ODD = ("8 Kanal (Std)", "Extended/16", "Mode #2: <wide>", "a", "Ch " * 20 + "x")
MOST_BREAKS, MOST_CELLS = 3, 12


@dataclass(frozen=True)
class Slot:
    """What is on a slot: the function, which byte, the cell, the level at which it begins."""

    function: str
    byte: str
    cell: int | None
    default: int
    highlight: int | None


@dataclass
class Expected:
    """A mode: what stands on each slot of each break, by the number of the break."""

    name: str
    slots: dict[int, dict[int, Slot]] = field(default_factory=dict)
    ranges: dict[tuple[int, int], list[tuple[int, int, str]]] = field(default_factory=dict)
    virtual: int = 0
    conditional: int = 0
    library_counts: bool = True
    """Whether the library counts as the standard does: it takes a break that a reference
    overwrites for the first one, whichever that is."""


def value(number: int, depth: int) -> Any:
    return pygdtf.DmxValue(f"{number}/{depth}")


def random_type(chance: Random, path: Path) -> list[Expected]:
    """Write a type to a file; its modes."""
    whole = pygdtf.FixtureType()
    whole.name = whole.long_name = f"Sample {chance.randint(1, 999)}"
    whole.short_name = "S"
    whole.manufacturer = chance.choice(("Sedge", "Dibber & Sons", "Mühle"))
    whole.description = ""
    whole.fixture_type_id = f"8EAC5323-C63A-4C21-96CF-5DBF4AF04{chance.randint(100, 999)}"
    names = [*KNOWN, *STRANGE]
    whole.attributes = [
        pygdtf.Attribute(name=one, pretty=one, feature=pygdtf.NodeLink("", "Control.Control"))
        for one in (*names, "NoFeature")
    ]
    geometries, modes, expected = pygdtf.Geometries(), pygdtf.DmxModes(), []
    for number in range(chance.randint(1, 3)):
        body = pygdtf.Geometry(name=f"Body{number}")
        template = pygdtf.Geometry(name=f"Pixel{number}")
        geometries += [body, template]
        name = ODD[number] if chance.random() < 0.4 else f"Mode {number}"
        told = Expected(name)
        channels = list(_channels(chance, body, template, told, names))
        mode = pygdtf.DmxMode(name=name, description="", geometry=body.name)
        mode._dmx_channels = channels
        modes.append(mode)
        expected.append(told)
    whole.geometries, whole.dmx_modes = geometries, modes
    pygdtf.FixtureTypeWriter(whole).write_gdtf(path)
    return expected


def _channels(chance: Random, body: Any, template: Any, told: Expected, names: list[str]) -> Any:
    """The channels of a mode: on the body, in cells that are referred to, and virtual ones."""
    free = dict.fromkeys(range(1, chance.randint(1, MOST_BREAKS) + 1), 1)
    for _ in range(chance.randint(1, 10)):
        dmx_break = chance.choice(list(free))
        depth = chance.choice((1, 1, 1, 2, 2, 3, 4))
        offsets = list(range(free[dmx_break], free[dmx_break] + depth))
        if depth == 2 and chance.random() < 0.3:  # the fine one apart, and another between
            offsets[1] += 1
            yield _channel(chance, body.name, dmx_break, [offsets[1] - 1], told, names, None, 0)
        free[dmx_break] = max(offsets) + 1
        yield _channel(chance, body.name, dmx_break, offsets, told, names, None, 0)
    if chance.random() < 0.4:
        told.virtual += 1
        yield _bare(chance.choice(names), body.name, 1, None)
    if chance.random() < 0.5:
        yield from _cells(chance, body, template, free, told, names)


def _cells(
    chance: Random, body: Any, template: Any, free: dict[int, int], told: Expected, names: list[str]
) -> Any:
    """Cells that are all alike, each at its own offset in a break of theirs."""
    dmx_break, overwritten = chance.choice(list(free)), chance.random() < 0.5
    told.library_counts = not overwritten or dmx_break == 1
    width, count = chance.randint(1, 4), chance.randint(2, MOST_CELLS)
    starts = [free[dmx_break] + at * width for at in range(count)]
    chance.shuffle(starts)
    for cell, start in enumerate(starts, 1):
        reference = pygdtf.GeometryReference(name=f"Lens {cell}", geometry=template.name)
        reference.breaks = [pygdtf.Break(pygdtf.DmxAddress(str(start)), dmx_break)]
        body.geometries.append(reference)
    for offset in range(1, width + 1):
        attribute = chance.choice(names)
        default, highlight = chance.randint(0, 255), chance.choice((None, 255))
        for cell, start in enumerate(starts, 1):
            slot = start + offset - 1
            told.slots.setdefault(dmx_break, {})[slot] = Slot(
                KNOWN.get(attribute, "other"), "whole", cell, default, highlight
            )
        made = _bare(attribute, template.name, "Overwrite" if overwritten else dmx_break, [offset])
        made.logical_channels[0].channel_functions[0].default = value(default, 1)
        made.highlight = value(highlight, 1) if highlight is not None else None
        made._has_highlight_attr = True
        yield made


def _bare(attribute: str, geometry: str, dmx_break: Any, offsets: list[int] | None) -> Any:
    """A channel with one function over all its levels."""
    link = pygdtf.NodeLink("Attributes", attribute)
    depth = len(offsets or [1])
    function = pygdtf.ChannelFunction(
        name=f"{attribute} 1", attribute=link, dmx_from=value(0, depth), default=value(0, depth)
    )
    made = pygdtf.DmxChannel(
        dmx_break=dmx_break,
        offset=offsets,
        default=None,
        geometry=geometry,
        initial_function=pygdtf.NodeLink("", f"{geometry}_{attribute}.{attribute}.{attribute} 1"),
        logical_channels=[pygdtf.LogicalChannel(attribute=link, channel_functions=[function])],
    )
    made._has_default_attr = False
    return made


def _channel(
    chance: Random,
    geometry: str,
    dmx_break: int,
    offsets: list[int],
    told: Expected,
    names: list[str],
    cell: int | None,
    added: int,
) -> Any:
    """A channel with ranges, as sets or as functions, and what is expected of its slots."""
    attribute, depth = chance.choice(names), len(offsets)
    default = chance.randrange(256**depth)
    highlight = chance.choice((None, chance.randrange(256**depth)))
    made = _bare(attribute, geometry, dmx_break, offsets)
    logical = made.logical_channels[0]
    logical.channel_functions[0].default = value(default, depth)
    made.highlight = value(highlight, depth) if highlight is not None else None
    made._has_highlight_attr = True
    bounds = sorted(chance.sample(range(1, 256), chance.randint(0, 4)))
    begins = [0, *bounds]
    ends = [*(one - 1 for one in bounds), 255]
    kind = chance.choice(("none", "sets", "functions", "masters"))
    if kind == "sets" and len(begins) > 1:
        logical.channel_functions[0].channel_sets = [
            pygdtf.ChannelSet(name=f"Set {at}", dmx_from=value(first << 8 * (depth - 1), depth))
            for at, first in enumerate(begins)
        ]
        _expect(told, dmx_break, offsets[0] + added, begins, ends, "Set")
    if kind in ("functions", "masters") and len(begins) > 1:
        logical.channel_functions = [
            pygdtf.ChannelFunction(
                name=f"{attribute} 1" if not at else f"Part {at}",
                attribute=logical.attribute,
                dmx_from=value(first << 8 * (depth - 1), depth),
                default=value(default, depth),
            )
            for at, first in enumerate(begins)
        ]
        if kind == "masters":
            told.conditional += 1
            logical.channel_functions[-1].mode_master = pygdtf.NodeLink("", "Body0_Dimmer")
            logical.channel_functions[-1].mode_from = value(10, 1)
            logical.channel_functions[-1].mode_to = value(20, 1)
        else:
            _expect(told, dmx_break, offsets[0] + added, begins, ends, "")
    digits = [default >> 8 * (depth - 1 - at) & 255 for at in range(depth)]
    lights = [
        None if highlight is None else highlight >> 8 * (depth - 1 - at) & 255
        for at in range(depth)
    ]
    for at, offset in enumerate(offsets):
        byte = "whole" if depth == 1 or at > 1 else ("coarse", "fine")[at]
        function = KNOWN.get(attribute, "other") if at < 2 else "other"
        told.slots.setdefault(dmx_break, {})[offset + added] = Slot(
            function, byte, cell, digits[at], lights[at]
        )
    return made


def _expect(
    told: Expected, dmx_break: int, slot: int, begins: list[int], ends: list[int], word: str
) -> None:
    told.ranges[dmx_break, slot] = [
        (first, last, f"{word} {at}" if word else "")
        for at, (first, last) in enumerate(zip(begins, ends, strict=True))
    ]
