"""Charts go out as fixture types of the standard, and come back with all that it can carry."""

from __future__ import annotations

from dataclasses import replace
from io import BytesIO
from random import Random
from zipfile import ZipFile

import pygdtf
import pytest
from defusedxml.ElementTree import fromstring

from fence.core.model.profile import (
    Byte,
    Channel,
    Emitter,
    Function,
    Mode,
    Part,
    Profile,
    Range,
)
from fence.formats.gdtf.attributes import UNITS, plain_name
from fence.formats.gdtf.reading import DESCRIPTION, UNUSED_NAME, read_gdtf
from fence.formats.gdtf.shelf import beside
from fence.formats.gdtf.writing import mode_names, write_gdtf
from fence.library import shipped_profiles
from tests.examples import tried
from tests.formats.gdtf.standard import GDTF, against

CHARTS = [*shipped_profiles()]


def carried(profile: Profile) -> Profile:
    """A chart with only what the standard carries, as docs/file-formats.md lists it."""
    return Profile(
        id=profile.id,
        maker=profile.maker,
        model=profile.model,
        modes=tuple(
            replace(
                mode,
                parts=tuple(_part(profile, part) for part in mode.parts),
                personality=mode.personality if profile.rdm else None,
            )
            for mode in profile.modes
        ),
        connectors_in=plain_name(profile.connectors_in),
        connectors_out=plain_name(profile.connectors_out),
        rdm=profile.rdm,
        weight_kg=profile.weight_kg or None,
        power_w=profile.power_w or None,
        emitters=tuple(sorted(profile.emitters, key=lambda one: one.function)),
        rdm_model=profile.rdm_model if profile.rdm else "",
        source="Fixture type (GDTF)",
    )


def _part(profile: Profile, part: Part) -> Part:
    return Part(part.footprint, tuple(_channel(profile, one) for one in part.channels))


def _channel(profile: Profile, channel: Channel) -> Channel:
    """Texts with the letters of the standard; one unit for each function of a type."""
    units = [
        r.unit
        for mode in profile.modes
        for part in mode.parts
        for c in part.channels
        if c.function is channel.function
        for r in c.ranges
        if r.unit in UNITS
    ]
    name = plain_name(channel.name)
    return replace(
        channel,
        name="" if name == channel.function else name,
        ranges=tuple(
            replace(
                one,
                meaning=plain_name(one.meaning),
                unit=units[0] if one.unit in UNITS else "",
                low=one.low if one.unit in UNITS else None,
                high=one.high if one.unit in UNITS else None,
            )
            for one in channel.ranges
        ),
    )


def random_chart(chance: Random) -> Profile:
    """A chart with cells, pairs of bytes near and apart, several parts, ranges and levels."""
    modes = []
    for number in range(chance.randint(1, 4)):
        parts = tuple(_random_part(chance) for _ in range(chance.randint(1, 3)))
        modes.append(
            Mode(chance.choice(("{n} ch", "Säule {n}", "Std. {n}")).format(n=number), parts)
        )
    return Profile(
        "sample-chart",
        "Sedge",
        "Sample",
        tuple(modes),
        rdm=chance.random() < 0.5,
        weight_kg=chance.choice((None, 4.25)),
        power_w=chance.choice((None, 350)),
        connectors_in=chance.choice(("", "XLR5")),
    )


def _random_part(chance: Random) -> Part:
    if chance.random() < 0.1:
        return Part(chance.randint(1, 20))
    channels: list[Channel] = []
    for at in range(chance.randint(1, 8)):
        function = chance.choice(list(Function))
        name = chance.choice(("", f"name {at}"))
        if chance.random() < 0.3:
            light = chance.choice((None, 255))
            coarse = Channel(function, name or f"wide {at}", None, Byte.COARSE, 128, light)
            fine = replace(
                coarse, byte=Byte.FINE, default=7, highlight=None if light is None else 0
            )
            channels += [coarse, fine]
            continue
        channels.append(Channel(function, name, ranges=_random_ranges(chance)))
    if chance.random() < 0.5:
        looks = [chance.choice((Function.RED, Function.GREEN, Function.DIMMER)) for _ in range(3)]
        for cell in range(1, chance.randint(2, 9)):
            channels += [Channel(look, cell=cell) for look in dict.fromkeys(looks)]
    return Part(len(channels), tuple(channels))


def _random_ranges(chance: Random) -> tuple[Range, ...]:
    bounds = sorted(chance.sample(range(256), 2 * chance.randint(0, 4)))
    return tuple(
        Range(
            first, last, f"meaning {first}", *chance.choice(((None, None, ""), (1.0, 20.5, "Hz")))
        )
        for first, last in zip(bounds[::2], bounds[1::2], strict=True)
    )


@pytest.mark.parametrize("profile", CHARTS, ids=lambda one: one.id)
def test_shipped_charts_come_back(profile: Profile) -> None:
    """Equal in all that the standard carries, valid, and as long as the library counts."""
    check(profile)


@pytest.mark.many
@pytest.mark.parametrize("seed", range(0, tried(100), 10))
def test_random_charts_come_back(seed: int) -> None:
    """The same of charts that nobody ships."""
    for number in range(seed, seed + 10):
        check(random_chart(Random(number)))


def check(profile: Profile) -> None:
    data = write_gdtf(profile)
    assert data == write_gdtf(profile), "the same chart gives the same file"
    root = fromstring(ZipFile(BytesIO(data)).read(DESCRIPTION))
    assert against(GDTF, root) == []
    read = read_gdtf(data, [profile.id]).profile
    wanted = carried(profile)
    assert read == wanted
    library, names = pygdtf.FixtureType(BytesIO(data)), mode_names(profile)
    for mode in profile.modes:
        theirs = library.dmx_modes.get_mode_by_name(names[mode.name])
        assert theirs.dmx_channels_count == mode.footprint
        counted = {one.dmx_break: one.channels_count for one in theirs.dmx_breaks}
        parts = {at: part.footprint for at, part in enumerate(mode.parts, 1) if part.footprint}
        assert counted == parts


def test_measured_light_and_rdm_come_back() -> None:
    """Chromaticity and wavelength of what a mode has, and personalities by mode."""
    part = Part(2, (Channel(Function.RED), Channel(Function.LIME)))
    profile = Profile(
        "sample",
        "Sedge",
        "Sample",
        (Mode("2 channel", (part,), 3), Mode("Rest", (Part(4),))),
        rdm=True,
        rdm_model="7FF0:0102",
        emitters=(
            Emitter(Function.LIME, 0.4075, 0.5533, 80.5),
            Emitter(Function.RED, 0.69, 0.31, 21.5, 625.0),
        ),
    )
    assert read_gdtf(write_gdtf(profile), ["sample"]).profile == carried(profile)


def test_what_only_the_shelf_knows_stays() -> None:
    """A type that comes in says nothing of switches: what the chart on the shelf says of them is
    kept; and one that says nothing new is that chart itself."""
    held = next(one for one in CHARTS if one.no_signal)
    read = read_gdtf(write_gdtf(held), [held.id]).profile
    assert beside(read, held) is held
    heavier = replace(read, weight_kg=99.5)
    kept = beside(heavier, held)
    assert kept.weight_kg == 99.5
    assert (kept.setter, kept.no_signal, kept.kind) == (held.setter, held.no_signal, held.kind)


def test_names_that_the_standard_has_no_letters_for() -> None:
    """They come out with the nearest letters; a mode has its own name again from its
    description."""
    assert plain_name("Säule, 2.5 Hz – “weiß”") == 'Saule; 2\'5 Hz - "weiss"'
    part = Part(1, (Channel(Function.DIMMER),))
    modes = (Mode("Größe 1.", (part,)), Mode("Grosse 1", (part,)), Mode("Größe 1", (part,)))
    profile = Profile("sample", "Sedge", "Sample", modes)
    assert len(set(mode_names(profile).values())) == 3
    assert UNUSED_NAME == "not used"
    names = [mode.name for mode in read_gdtf(write_gdtf(profile)).profile.modes]
    assert names == [mode.name for mode in modes]
