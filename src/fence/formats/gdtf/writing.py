"""A chart, written as a fixture type of the standard."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from io import BytesIO
from typing import Any
from xml.etree.ElementTree import Element, indent, tostring
from zipfile import ZIP_DEFLATED, ZipFile, ZipInfo

import pygdtf

from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile, Range
from fence.formats.gdtf.attributes import UNITS, UNUSED, WRITTEN, plain_name
from fence.formats.gdtf.reading import (
    BLANK,
    DESCRIPTION,
    UNUSED_NAME,
    type_id_of,
)

DATA_VERSION = "1.2"
EPOCH = (1980, 1, 1, 0, 0, 0)
"""The time in packages: the same chart gives the same file."""


@dataclass(frozen=True, slots=True)
class _Written:
    """A channel of a part as it is written: its slots from 1, coarse first, and what they are."""

    slots: tuple[int, ...]
    channels: tuple[Channel, ...]
    attribute: str

    @property
    def first(self) -> Channel:
        """The coarse byte, or the only one."""
        return self.channels[0]


def write_gdtf(profile: Profile) -> bytes:
    """A chart as a ``.gdtf`` file."""
    xml = _xml(profile)
    indent(xml, space=" ")
    found = BytesIO()
    with ZipFile(found, "w", ZIP_DEFLATED) as package:
        entry = ZipInfo(DESCRIPTION, EPOCH)
        entry.compress_type = ZIP_DEFLATED
        package.writestr(entry, tostring(xml, encoding="UTF-8", xml_declaration=True))
    return found.getvalue()


def _xml(profile: Profile) -> Element:
    whole = pygdtf.FixtureType()
    whole.data_version = DATA_VERSION
    name = plain_name(profile.model) or "Unnamed type"
    whole.name = name
    whole.short_name = name[:20]
    whole.long_name = profile.model
    whole.manufacturer = profile.maker
    whole.description = profile.kind
    whole.fixture_type_id = type_id_of(profile.id)
    whole.emitters = [
        pygdtf.Emitter(
            name=plain_name(str(one.function)),
            color=pygdtf.ColorCIE(one.x, one.y, one.luminance),
            dominant_wave_length=one.wavelength_nm or 0.0,
        )
        for one in profile.emitters
    ]
    whole.properties = pygdtf.Properties(weight=profile.weight_kg or 0.0)
    names = mode_names(profile)
    whole.protocols = list(_rdm(profile, names))
    geometries, modes = pygdtf.Geometries(), pygdtf.DmxModes()
    for number, mode in enumerate(profile.modes, 1):
        built, top = _mode(profile, mode, names[mode.name], number)
        modes.append(built)
        geometries += top
    whole.geometries, whole.dmx_modes = geometries, modes
    _define(whole, profile)
    return _in_order(whole.to_xml())


def _in_order(root: Element) -> Element:
    """The description as the standard has it now: with what the library leaves out, and without
    what was taken out of the standard."""
    for channel in root.iter("DMXChannel"):
        channel.attrib.setdefault("Highlight", "None")
    for physical in root.iter("PhysicalDescriptions"):
        for former in physical.findall("Connectors"):
            physical.remove(former)
    return root


def mode_names(profile: Profile) -> dict[str, str]:
    """The names of modes with the letters that the standard has, each once."""
    found: dict[str, str] = {}
    for mode in profile.modes:
        name = whole = plain_name(mode.name) or "Mode"
        number = 2
        while name in found.values():
            name, number = f"{whole} ({number})", number + 1
        found[mode.name] = name
    return found


def _rdm(profile: Profile, names: Mapping[str, str]) -> Iterator[Any]:
    if not profile.rdm:
        return
    maker, _, model = profile.rdm_model.partition(":")
    said = [mode for mode in profile.modes if mode.personality is not None]
    version = pygdtf.SoftwareVersionId(
        value="0x0",
        dmx_personalities=[
            pygdtf.DmxPersonality(dmx_mode=names[mode.name], value=f"0x{mode.personality:X}")
            for mode in said
        ],
    )
    yield pygdtf.Rdm(
        manufacturer_id=int(maker, 16) if maker else 0,
        device_model_id=int(model, 16) if model else 0,
        software_versions=[version] if said else [],
    )


# ---- modes


def _mode(profile: Profile, mode: Mode, name: str, number: int) -> tuple[Any, list[Any]]:
    """A mode and its geometries: a body, on which its cells hang."""
    body = pygdtf.Geometry(name=f"Body {number}")
    built = pygdtf.DmxMode(name=name, description=mode.name, geometry=body.name)
    written = [_written(part) for part in mode.parts]
    cells = sorted(
        {one.first.cell for part in written for one in part if one.first.cell is not None}
    )
    alike = _alike(written, cells)
    geometries = [body]
    channels: list[Any] = []
    template = f"Cell of body {number}"
    if alike:
        geometries.append(pygdtf.Geometry(name=template))
    for of_cell in cells:
        if alike:
            body.geometries.append(_reference(of_cell, template, written, number))
        else:
            body.geometries.append(pygdtf.Geometry(name=_cell_name(of_cell, number)))
    for place, part in enumerate(written, 1):
        for one in part:
            cell: int | None = one.first.cell
            if cell is None:
                channels.append(_channel(profile, place, one, str(body.name), 0))
            elif not alike:
                channels.append(_channel(profile, place, one, _cell_name(cell, number), 0))
            elif cell == cells[0]:
                begin = _begin(part, cell)
                channels.append(_channel(profile, place, one, template, begin - 1))
    built._dmx_channels = channels  # the list that the library writes
    if number == 1:
        body.geometries += _wiring(profile)
    return built, geometries


def _cell_name(cell: int, body: int) -> str:
    """The name of a cell's geometry, which no other has."""
    return f"Cell {cell}" if body == 1 else f"Cell {cell} of body {body}"


def _begin(part: Sequence[_Written], cell: int) -> int:
    """The first slot of a cell in a part."""
    return min(slot for one in part if one.first.cell == cell for slot in one.slots)


def _alike(written: Sequence[Sequence[_Written]], cells: Sequence[int]) -> bool:
    """Whether all cells of a mode are the same thing at other slots, and there are several."""
    if len(cells) < 2:
        return False
    shapes = set()
    for cell in cells:
        shape: list[tuple[object, ...]] = []
        for part in written:
            mine = [one for one in part if one.first.cell == cell]
            if not mine:
                shape.append(())
                continue
            begin = _begin(part, cell)
            shape.append(
                tuple(
                    (tuple(slot - begin for slot in one.slots), _without_cell(one)) for one in mine
                )
            )
        shapes.add(tuple(shape))
    return len(shapes) == 1


def _without_cell(one: _Written) -> tuple[Channel, ...]:
    return tuple(replace(channel, cell=None) for channel in one.channels)


def _reference(cell: int, template: str, written: Sequence[Sequence[_Written]], body: int) -> Any:
    """A cell that is the same as the others, at its own slots in each break."""
    found = pygdtf.GeometryReference(name=_cell_name(cell, body), geometry=template)
    found.breaks = [
        pygdtf.Break(pygdtf.DmxAddress(str(_begin(part, cell))), place)
        for place, part in enumerate(written, 1)
        if any(one.first.cell == cell for one in part)
    ]
    return found


def _wiring(profile: Profile) -> Iterator[Any]:
    for name, kind, words in (
        ("DMX in", "NetworkInput", profile.connectors_in),
        ("DMX out", "NetworkOutput", profile.connectors_out),
    ):
        if words:
            yield pygdtf.GeometryWiringObject(
                name=name,
                connector_type=plain_name(words),
                component_type=pygdtf.ComponentType(kind),
                signal_type="DMX512",
            )
    if profile.power_w:
        yield pygdtf.GeometryWiringObject(
            name="Power in",
            connector_type="Power",
            component_type=pygdtf.ComponentType("Consumer"),
            signal_type="Power",
            electrical_payload=float(profile.power_w),
        )


def _written(part: Part) -> list[_Written]:
    """The channels of a part, each coarse byte with its fine one, wherever that stands."""
    channels = part.channels or (BLANK,) * part.footprint
    fine = {
        (c.function, c.name, c.cell): at
        for at, c in reversed(list(enumerate(channels)))
        if c.byte is Byte.FINE
    }
    paired: dict[int, int] = {}
    for at, channel in enumerate(channels):
        key = channel.function, channel.name, channel.cell
        if channel.byte is Byte.COARSE and key in fine and not channels[fine[key]].ranges:
            paired[at] = fine.pop(key)
    found = []
    for at, channel in enumerate(channels):
        if at in paired.values():
            continue
        if at in paired:
            both = (channel, channels[paired[at]])
            slots = (at + 1, paired[at] + 1)
            found.append(_Written(slots, both, WRITTEN[channel.function].name))
            continue
        found.append(_Written((at + 1,), (channel,), _attribute(channel)))
    return found


def _attribute(channel: Channel) -> str:
    """The attribute of a single byte; one without its other half has one of its own."""
    if (channel.function, channel.name) == (Function.OTHER, UNUSED_NAME):
        return UNUSED
    name = WRITTEN[channel.function].name
    return name if channel.byte is Byte.WHOLE else f"{str(channel.byte).capitalize()}_{name}"


def _channel(profile: Profile, dmx_break: int, one: _Written, geometry: str, before: int) -> Any:
    """A channel with one function over all its levels, and a set for each range."""
    depth, first = len(one.slots), one.first
    attribute = pygdtf.NodeLink("Attributes", one.attribute)
    name = plain_name(first.name) or f"{one.attribute} 1"
    emitter = any(held.function is first.function for held in profile.emitters)
    function = pygdtf.ChannelFunction(
        name=name,
        attribute=attribute,
        dmx_from=_value(0, depth),
        default=_value(_number([c.default for c in one.channels]), depth),
        channel_sets=list(_sets(first.ranges, depth)),
        emitter=pygdtf.NodeLink("Emitters", plain_name(str(first.function))) if emitter else None,
    )
    lights = [c.highlight for c in one.channels]
    found = pygdtf.DmxChannel(
        dmx_break=dmx_break,
        offset=[slot - before for slot in one.slots],
        default=None,
        highlight=(
            _value(_number([light or 0 for light in lights]), depth)
            if lights[0] is not None
            else None
        ),
        geometry=geometry,
        initial_function=pygdtf.NodeLink(
            "DMXChannel", f"{geometry}_{one.attribute}.{one.attribute}.{name}"
        ),
        logical_channels=[pygdtf.LogicalChannel(attribute=attribute, channel_functions=[function])],
    )
    found._has_default_attr = False
    found._has_highlight_attr = True
    return found


def _sets(ranges: Sequence[Range], depth: int) -> Iterator[Any]:
    """Ranges as sets; a set without a name fills a gap, since each goes on to the next."""
    free = 0
    for one in sorted(ranges, key=lambda held: held.first):
        if one.first < free:
            continue  # it overlaps one before it, which the standard cannot say
        if one.first > free:
            yield pygdtf.ChannelSet(name="", dmx_from=_value(free << 8 * (depth - 1), depth))
        runs = one.low is not None and one.high is not None
        yield pygdtf.ChannelSet(
            name=plain_name(one.meaning),
            dmx_from=_value(one.first << 8 * (depth - 1), depth),
            physical_from=pygdtf.PhysicalValue(one.low if runs else None),
            physical_to=pygdtf.PhysicalValue(one.high if runs else None),
        )
        free = one.last + 1
    if ranges and free <= 255:
        yield pygdtf.ChannelSet(name="", dmx_from=_value(free << 8 * (depth - 1), depth))


def _number(levels: Sequence[int]) -> int:
    found = 0
    for level in levels:
        found = found << 8 | level
    return found


def _value(number: int, depth: int) -> Any:
    return pygdtf.DmxValue(f"{number}/{depth}")


# ---- definitions


def _define(whole: Any, profile: Profile) -> None:
    """The attributes that the modes use, with their features."""
    used: dict[str, Function | None] = {}
    units: dict[Function, str] = {}
    for mode in profile.modes:
        for part in mode.parts:
            for one in _written(part):
                none = one.attribute == UNUSED
                used[one.attribute] = None if none else one.first.function
                for held in one.first.ranges:
                    if held.unit in UNITS:
                        units.setdefault(one.first.function, UNITS[held.unit])
    features: dict[str, dict[str, None]] = {}
    for name, function in used.items():
        written = WRITTEN.get(function) if function else None
        feature = written.feature if written else "Control.Control"
        group, _, part_name = feature.partition(".")
        features.setdefault(group, {})[part_name] = None
        whole.attributes.append(
            pygdtf.Attribute(
                name=name,
                pretty=written.pretty if written and written.name == name else name,
                feature=pygdtf.NodeLink("FeatureGroups", feature),
                physical_unit=pygdtf.PhysicalUnit(
                    units.get(function, "None") if function else "None"
                ),
            )
        )
    whole.feature_groups = [
        pygdtf.FeatureGroup(
            name=group, pretty=group, features=[pygdtf.Feature(name=one) for one in held]
        )
        for group, held in features.items()
    ]
