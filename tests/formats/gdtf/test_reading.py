"""Fixture types of the standard are read slot by slot as they were put together, and as the library
of the standard counts them."""

from __future__ import annotations

from pathlib import Path
from random import Random

import pygdtf
import pytest

from fence.core.model.profile import Byte, Function, Mode
from fence.formats.gdtf.reading import read_gdtf
from fence.formats.gdtf.writing import write_gdtf
from tests.examples import tried
from tests.formats.gdtf.random_types import Expected, Slot, random_type

TYPES, A_TEST = tried(300), 20


def laid(mode: Mode, expected: Expected) -> dict[int, dict[int, Slot]]:
    """The slots of a mode as they were read, by the numbers of the breaks."""
    found: dict[int, dict[int, Slot]] = {}
    for dmx_break, part in zip(sorted(expected.slots), mode.parts, strict=True):
        found[dmx_break] = {
            slot: Slot(str(c.function), str(c.byte), c.cell, c.default, c.highlight)
            for slot, c in enumerate(part.channels, 1)
        }
    return found


@pytest.mark.many
@pytest.mark.parametrize("seed", range(0, TYPES, A_TEST))
def test_random_types(tmp_path: Path, seed: int) -> None:
    """Every byte on its slot, in its break and cell, with its level; every range; virtual channels
    take no slot; footprints as the library counts them; and what Fence writes of it reads the
    same again."""
    for number in range(seed, seed + A_TEST):
        path = tmp_path / f"{number}.gdtf"
        expected = random_type(Random(number), path)
        read = read_gdtf(path.read_bytes())
        library = pygdtf.FixtureType(path)
        assert [mode.name for mode in read.profile.modes] == [one.name.strip() for one in expected]
        for mode, told, theirs in zip(read.profile.modes, expected, library.dmx_modes, strict=True):
            assert laid(mode, told) == told.slots, number
            counts = {one.dmx_break: one.channels_count for one in theirs.dmx_breaks}
            if told.library_counts:
                assert counts == {of: len(slots) for of, slots in told.slots.items()}, number
            check_ranges(mode, told)
            notes = " ".join(read.of_modes[mode.name])
            assert ("virtual" in notes) == bool(told.virtual)
            assert ("only while" in notes) == bool(told.conditional)
        again = read_gdtf(write_gdtf(read.profile), [read.profile.id]).profile
        assert [laid(m, t) for m, t in zip(again.modes, expected, strict=True)] == [
            laid(m, t) for m, t in zip(read.profile.modes, expected, strict=True)
        ]


def check_ranges(mode: Mode, told: Expected) -> None:
    """Ranges where they were put; those with a name have it."""
    for at, dmx_break in enumerate(sorted(told.slots)):
        for (of_break, slot), ranges in told.ranges.items():
            if of_break != dmx_break:
                continue
            found = mode.parts[at].channels[slot - 1].ranges
            assert [(one.first, one.last) for one in found] == [one[:2] for one in ranges]
            for one, (_, _, name) in zip(found, ranges, strict=True):
                assert not name or one.meaning == name


def test_a_cell_below_the_one_that_is_referred_to(tmp_path: Path) -> None:
    """What hangs on a geometry comes with each reference to it, with the offset of that."""
    whole = pygdtf.FixtureType()
    whole.name, whole.manufacturer = "Nest", "Sedge"
    deep = pygdtf.Geometry(name="Deep")
    cell = pygdtf.Geometry(name="Cell")
    cell.geometries.append(deep)
    body = pygdtf.Geometry(name="Body")
    for number, start in ((1, 5), (2, 1)):
        reference = pygdtf.GeometryReference(name=f"R{number}", geometry="Cell")
        reference.breaks = [pygdtf.Break(pygdtf.DmxAddress(str(start)), 1)]
        body.geometries.append(reference)
    link = pygdtf.NodeLink("", "Dimmer")
    channel = pygdtf.DmxChannel(
        offset=[2],
        geometry="Deep",
        default=None,
        logical_channels=[
            pygdtf.LogicalChannel(
                attribute=link,
                channel_functions=[pygdtf.ChannelFunction(name="Dimmer 1", attribute=link)],
            )
        ],
    )
    mode = pygdtf.DmxMode(name="M", geometry="Body")
    mode._dmx_channels = [channel]
    whole.geometries = pygdtf.Geometries([body, cell])
    whole.dmx_modes = pygdtf.DmxModes([mode])
    path = tmp_path / "nest.gdtf"
    pygdtf.FixtureTypeWriter(whole).write_gdtf(path)
    (part,) = read_gdtf(path.read_bytes()).profile.modes[0].parts
    assert part.footprint == 6
    lit = {slot: c.cell for slot, c in enumerate(part.channels, 1) if c.function is Function.DIMMER}
    assert lit == {6: 1, 2: 2}
    assert part.channels[5].byte is Byte.WHOLE
