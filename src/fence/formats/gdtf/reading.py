"""A fixture type of the standard, read into a chart.

The library that reads the file resolves the channels of a mode by copying each of them for each
cell, and takes no longer way to a channel than one reference; so its channels are read one by one,
and laid out here.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from io import BytesIO
from typing import Any
from uuid import NAMESPACE_URL, uuid5
from xml.etree.ElementTree import Element, tostring

import pygdtf

from fence.core.model.address import SLOTS
from fence.core.model.errors import ChartError, FenceError
from fence.core.model.profile import (
    MOST_PARTS,
    Byte,
    Channel,
    Emitter,
    Function,
    Mode,
    Part,
    Profile,
    Range,
)
from fence.core.model.text import counted, joined, printable, slug
from fence.formats.errors import FileError
from fence.formats.gdtf.attributes import (
    ALONE,
    NAMES,
    UNITS_READ,
    UNUSED,
    function_of,
    plain_name,
)
from fence.formats.packages import Package, read_xml

WHAT = "a fixture type (.gdtf)"
DESCRIPTION = "description.xml"
MOST_MODES, MOST_CHANNELS = 500, 4_096
"""Modes of a type, and channels of a mode that are looked at before it is known to be too large."""
MOST_RANGES = 256
"""Ranges of a channel: no two begin at the same level."""
ULTRA = ("ultra fine", "uber fine")
"""What the third and the fourth byte of a value are called."""
DAMAGED = (ValueError, TypeError, AttributeError, KeyError, IndexError, OverflowError)
"""What the library meets in a file that is not as it should be."""


@dataclass(frozen=True, slots=True)
class ReadType:
    """A chart out of a file, and what there is to say of it: of the whole type, and of each mode by
    its name."""

    profile: Profile
    notes: tuple[str, ...]
    of_modes: Mapping[str, tuple[str, ...]]


def type_id_of(chart_id: str) -> str:
    """The identity of a chart as a type of the standard: always the same."""
    return str(uuid5(NAMESPACE_URL, f"fence:chart:{chart_id}")).upper()


def read_gdtf(data: bytes, known: Collection[str] = ()) -> ReadType:
    """The chart of a ``.gdtf`` file. ``known`` are ids of charts: a type that was written from one
    of them has its id again. ``FileError`` says what is wrong."""
    root = read_xml(Package(data, WHAT).read(DESCRIPTION), WHAT)
    type_node = root.find("FixtureType") if root.tag == "GDTF" else None
    if type_node is None:
        raise FileError(f"This is not {WHAT}: there is no fixture type in its description.")
    modes = type_node.find("DMXModes")
    nodes = list(modes.findall("DMXMode")) if modes is not None else []
    if not nodes:
        raise FileError("The fixture type lacks a mode. Use types with at least one.")
    if len(nodes) > MOST_MODES:
        raise FileError(f"The fixture type has {len(nodes)} modes. Use up to {MOST_MODES}.")
    assert modes is not None
    type_node.remove(modes)
    try:
        whole = pygdtf.FixtureType(dsc_file=BytesIO(tostring(root)))
        return _Reading(whole, nodes, known).read()
    except FileError:
        raise
    except FenceError as error:
        raise FileError(f"The fixture type cannot be taken over: {error}") from None
    except RecursionError:
        raise FileError("The geometry of the fixture type refers to itself.") from None
    except DAMAGED as error:
        said = printable(str(error)[:100])
        raise FileError(f"The fixture type is damaged: a value cannot be read ({said}).") from None


@dataclass(frozen=True, slots=True)
class _Placed:
    """A channel where a mode has it: its break, what is added to its offsets, and its cell."""

    channel: Any
    dmx_break: int
    added: int
    cell: int | None


@dataclass
class _Notes:
    """What there is to say of a mode, gathered."""

    unknown: dict[str, None] = field(default_factory=dict)
    virtual: int = 0
    twice: int = 0
    nowhere: int = 0
    conditional: int = 0

    def told(self, unused: int) -> tuple[str, ...]:
        """In words."""
        found = []
        if self.unknown:
            names = joined(list(self.unknown), most=6)
            found.append(f"Kept as “other”, with its own name: {names}.")
        if unused:
            found.append(f"{counted(unused, 'slot is', 'slots are')} not used.")
        if self.virtual:
            what = counted(self.virtual, "virtual channel takes", "virtual channels take")
            found.append(f"{what} no slot, and {'is' if self.virtual == 1 else 'are'} left out.")
        if self.conditional:
            what = counted(self.conditional, "range means", "ranges mean")
            found.append(f"{what} something only while another channel is at some level.")
        if self.twice:
            what = counted(self.twice, "channel stands", "channels stand")
            found.append(f"{what} on a slot of another one, and is left out: look at it.")
        if self.nowhere:
            what = counted(self.nowhere, "channel belongs", "channels belong")
            found.append(f"{what} to a geometry that this mode does not have: look at it.")
        return tuple(found)


class _Reading:
    """One fixture type while it is read."""

    def __init__(self, whole: Any, nodes: Sequence[Element], known: Collection[str]) -> None:
        self.whole, self.nodes, self.known = whole, nodes, known
        self.by_name = {one.name: one for one in _all(whole.geometries)}
        self.units = {
            one.name: UNITS_READ.get(str(one.physical_unit), "") for one in whole.attributes
        }
        self.pretty = {one.name: one.pretty or one.name for one in whole.attributes}
        self.slots_of_wheel = {
            wheel.name: [slot.name or "" for slot in wheel.wheel_slots] for wheel in whole.wheels
        }
        self.emitters = {one.name: one for one in whole.emitters}
        self.of_function: dict[Function, Any] = {}
        self.personalities, self.rdm_model, self.rdm = _rdm(whole)

    def read(self) -> ReadType:
        """The chart, and what there is to say of it."""
        maker = printable((self.whole.manufacturer or "").strip())[:200]
        model = printable((self.whole.long_name or self.whole.name or "").strip())[:200]
        notes: list[str] = []
        modes: list[Mode] = []
        of_modes: dict[str, tuple[str, ...]] = {}
        for node in self.nodes:
            mode, told = self._mode(node, {one.name for one in modes})
            modes.append(mode)
            of_modes[mode.name] = told
        weight = float(self.whole.properties.weight) if self.whole.properties else 0.0
        wiring = [one for one in _all(self.whole.geometries) if isinstance(one, WIRING)]
        power = sum(one.electrical_payload for one in wiring)
        if not model:
            notes.append("The type has no name: give it one.")
        profile = Profile(
            id=self._id(maker, model),
            maker=maker,
            model=model or "Unnamed type",
            modes=tuple(modes),
            connectors_in=_connector(wiring, "NetworkInput"),
            connectors_out=_connector(wiring, "NetworkOutput"),
            rdm=self.rdm,
            weight_kg=round(weight, 3) if 0 < weight < 100_000 else None,
            power_w=round(power) if 0 < power < 1_000_000 else None,
            emitters=self._measured(),
            rdm_model=self.rdm_model,
            source="Fixture type (GDTF)",
        )
        return ReadType(profile, tuple(notes), of_modes)

    def _id(self, maker: str, model: str) -> str:
        mine = (self.whole.fixture_type_id or "").upper()
        for chart_id in self.known:
            if type_id_of(chart_id) == mine:
                return chart_id
        return slug(f"{maker} {model}", "imported")

    def _measured(self) -> tuple[Emitter, ...]:
        found = []
        for function, emitter in sorted(self.of_function.items()):
            nanometres = emitter.dominant_wave_length or 0.0
            try:
                found.append(
                    Emitter(
                        function,
                        round(emitter.color.x, 6),
                        round(emitter.color.y, 6),
                        round(emitter.color.Y, 6),
                        round(nanometres, 3) if nanometres else None,
                    )
                )
            except ChartError:
                continue  # no light has it
        return tuple(found)

    # ---- modes

    def _mode(self, node: Element, taken: set[str]) -> tuple[Mode, tuple[str, ...]]:
        name = _mode_name(node, taken)
        held = node.find("DMXChannels")
        channel_nodes = list(held.findall("DMXChannel")) if held is not None else []
        if len(channel_nodes) > MOST_CHANNELS:
            raise FileError(
                f"Mode “{name}” lists {len(channel_nodes)} channels. Use up to {MOST_CHANNELS}."
            )
        channels = [pygdtf.DmxChannel(xml_node=one) for one in channel_nodes]
        notes = _Notes()
        by_break: dict[int, dict[int, Channel]] = {}
        placed_channels = list(self._placed(node.attrib.get("Geometry"), channels, notes))
        for placed in placed_channels:
            self._lay(name, placed, by_break, notes)
        parts, unused = self._parts(name, by_break)
        number = self.personalities.get(node.attrib.get("Name", ""))
        return Mode(name, parts, number), notes.told(unused)

    def _parts(
        self, name: str, by_break: dict[int, dict[int, Channel]]
    ) -> tuple[tuple[Part, ...], int]:
        if len(by_break) > MOST_PARTS:
            raise FileError(f"Mode “{name}” has {len(by_break)} breaks. Use up to {MOST_PARTS}.")
        parts, unused = [], 0
        for dmx_break in sorted(by_break):
            laid = by_break[dmx_break]
            footprint = max(laid)
            channels = tuple(laid.get(slot, BLANK) for slot in range(1, footprint + 1))
            if all(channel == BLANK for channel in channels):
                parts.append(Part(footprint))
                continue
            unused += sum(channel == BLANK for channel in channels)
            parts.append(Part(footprint, channels))
        return tuple(parts) or (Part(0),), unused

    def _placed(
        self, root_name: str | None, channels: Sequence[Any], notes: _Notes
    ) -> Iterator[_Placed]:
        """The channels where the geometry of a mode has them."""
        of_geometry: dict[str | None, list[Any]] = {}
        for channel in channels:
            of_geometry.setdefault(channel.geometry, []).append(channel)
        root = self.by_name.get(root_name) or next(iter(self.whole.geometries), None)
        if root is None:
            for channel in channels:
                yield _Placed(channel, _break_of(channel, ()), 0, None)
            return
        seen: set[str | None] = set()
        cells = _Cells(root, self.by_name)
        for geometry, breaks in _tree(root, self.by_name, ()):
            own = geometry.geometry if breaks and isinstance(geometry, REFERENCE) else geometry.name
            seen.add(own)
            for channel in of_geometry.get(own, ()):
                number = _break_of(channel, breaks)
                yield _Placed(
                    channel, number, _added(number, channel, breaks), cells.of(geometry, breaks)
                )
        notes.nowhere += sum(len(held) for name, held in of_geometry.items() if name not in seen)

    def _lay(
        self,
        mode: str,
        placed: _Placed,
        by_break: dict[int, dict[int, Channel]],
        notes: _Notes,
    ) -> None:
        """A channel on its slots."""
        offsets = placed.channel.offset
        if not offsets:
            notes.virtual += 1
            return
        laid = by_break.setdefault(placed.dmx_break, {})
        made = self._channels(placed, len(offsets), notes)
        for offset, channel in zip(offsets, made, strict=False):
            slot = offset + placed.added
            if not 1 <= slot <= SLOTS:
                raise FileError(
                    f"Mode “{mode}” has a channel at slot {slot}. "
                    f"Use slots 1 to {SLOTS} in each break."
                )
            if slot in laid:
                notes.twice += 1
                continue
            laid[slot] = channel

    # ---- channels

    def _channels(self, placed: _Placed, depth: int, notes: _Notes) -> Iterator[Channel]:
        """A channel as one entry for each of its bytes."""
        held = placed.channel
        logical = held.logical_channels[0]
        attribute = str(logical.attribute.str_link or UNUSED)
        if attribute == UNUSED and depth == 1:
            yield (
                BLANK if placed.cell is None else Channel(Function.OTHER, UNUSED_NAME, placed.cell)
            )
            return
        byte, bare = _alone(attribute)
        function = function_of(bare)
        name = self._name(held, attribute, bare, function)
        if function is None:
            function = Function.OTHER
            notes.unknown[bare] = None
        self._note_emitter(held, function)
        default, highlight = _default(held), held.highlight
        values = _bytes_of(default, depth)
        lights = _bytes_of(highlight, depth) if highlight is not None else [None] * depth
        ranges = tuple(self._ranges(held, depth, notes))
        yield Channel(
            function,
            name,
            placed.cell,
            byte or (Byte.COARSE if depth > 1 else Byte.WHOLE),
            values[0] or 0,
            lights[0],
            ranges,
        )
        if depth > 1:
            yield Channel(function, name, placed.cell, Byte.FINE, values[1] or 0, lights[1])
        for place in range(2, min(depth, 4)):
            words = f"{name or function} {ULTRA[place - 2]}"
            yield Channel(
                Function.OTHER, words, placed.cell, Byte.WHOLE, values[place] or 0, lights[place]
            )

    def _name(self, held: Any, attribute: str, bare: str, function: Function | None) -> str:
        """What a channel is called where that says more than its function."""
        functions = [one for logical in held.logical_channels for one in logical.channel_functions]
        said = printable((functions[0].name or "").strip())[:200] if len(functions) == 1 else ""
        usual = {attribute, bare, self.pretty.get(attribute, ""), "", str(function or "")}
        if said and said not in usual and not re.fullmatch(rf"{re.escape(bare)} ?\d+", said):
            return said
        if function is None:
            return printable(self.pretty.get(bare, bare))[:200] or bare
        return NAMES.get(bare, "")

    def _note_emitter(self, held: Any, function: Function) -> None:
        for logical in held.logical_channels:
            for one in logical.channel_functions:
                emitter = self.emitters.get(str(one.emitter.str_link)) if one.emitter else None
                if emitter is not None:
                    self.of_function.setdefault(function, emitter)

    def _ranges(self, held: Any, depth: int, notes: _Notes) -> Iterator[Range]:
        """What the levels of a channel mean: its sets, or its functions where one has none."""
        told: list[_Span] = []
        for logical in held.logical_channels:
            alone = len(held.logical_channels) == len(logical.channel_functions) == 1
            for function, first, last in _spans_of_functions(logical.channel_functions, depth):
                while_ = self._while(function)
                mine = [
                    _Span(begin, end, self._set_name(function, one) + while_, one, function)
                    for one, begin, end in _spans(function.channel_sets, first, last, depth)
                    if self._set_name(function, one)
                ]
                if not mine and (while_ or not alone):
                    words = (function.name or str(function.attribute)) + while_
                    mine = [_Span(first, last, words, function, function)]
                notes.conditional += bool(while_) * len(mine)
                told += mine
        told.sort(key=lambda one: (bool(self._while(one.function)), one.first))
        end = -1
        for one in told[:MOST_RANGES]:
            first, last = one.levels(depth)
            if not self._while(one.function):
                first = max(first, end + 1)
                end = max(end, last)
            if first <= last:
                meaning = printable(one.meaning.strip())[:300]
                yield Range(first, last, meaning, *self._physical(one.source, one.function))

    def _set_name(self, function: Any, held_set: Any) -> str:
        """The name of a set; where it has none, that of the wheel slot which it shows."""
        name = (held_set.name or "").strip()
        slots = self.slots_of_wheel.get(str(function.wheel.str_link)) if function.wheel else None
        index = held_set.wheel_slot_index
        slot = slots[index - 1] if slots and 0 < index <= len(slots) else ""
        if not name or not slot or slot.casefold() in name.casefold():
            return str(name or slot)
        return f"{name} ({slot})"

    def _while(self, function: Any) -> str:
        master = str(function.mode_master.str_link or "") if function.mode_master else ""
        if not master:
            return ""
        of = master.split(".")[0].split("_")[-1]
        first, last = function.mode_from.value, function.mode_to.value
        return f", while {of} is at {first} to {last}"

    def _physical(self, source: Any, function: Any) -> tuple[float | None, float | None, str]:
        """What a range runs between, and in which unit; nothing where the file does not say so."""
        said = source.physical_from.source, source.physical_to.source
        low, high = source.physical_from.value, source.physical_to.value
        unit = self.units.get(str(function.attribute), "")
        own = source is function or all(str(one) == "Set" for one in said)
        if not unit or not own or low is None or high is None:
            return None, None, ""
        if source is function and (low, high) == (0, 1):
            return None, None, ""
        return float(low), float(high), unit


@dataclass(frozen=True, slots=True)
class _Span:
    """From which value to which of a channel something is meant, in the depth of the channel."""

    first: int
    last: int
    meaning: str
    source: Any
    function: Any

    def levels(self, depth: int) -> tuple[int, int]:
        """The coarse levels: the last one is that before the next begins."""
        shift = 8 * (depth - 1)
        first = self.first >> shift
        return first, max(first, ((self.last + 1) >> shift) - 1)


def _spans(
    held: Sequence[Any], first: int, last: int, depth: int
) -> Iterator[tuple[Any, int, int]]:
    """Each of several that begin somewhere between two values, up to where the next begins."""
    order = sorted(held, key=lambda one: _at_depth(one.dmx_from, depth))
    begins = [max(first, _at_depth(one.dmx_from, depth)) for one in order]
    for at, one in enumerate(order):
        end = begins[at + 1] - 1 if at + 1 < len(order) else last
        if begins[at] <= min(end, last):
            yield one, begins[at], min(end, last)


def _spans_of_functions(functions: Sequence[Any], depth: int) -> Iterator[tuple[Any, int, int]]:
    """The functions of a logical channel, those under one condition beside each other."""
    groups: dict[tuple[str, int, int], list[Any]] = {}
    for one in functions:
        master = str(one.mode_master.str_link or "") if one.mode_master else ""
        groups.setdefault((master, one.mode_from.value, one.mode_to.value), []).append(one)
    for group in groups.values():
        yield from _spans(group, 0, 256**depth - 1, depth)


class _Cells:
    """The cells of a mode: what is referred to several times, or is named as a cell."""

    def __init__(self, root: Any, by_name: Mapping[Any, Any]) -> None:
        order = [one for one, breaks in _tree(root, by_name, ()) if isinstance(one, REFERENCE)]
        counts: dict[Any, int] = {}
        for one in order:
            counts[one.geometry] = counts.get(one.geometry, 0) + 1
        many = [one for one in order if counts[one.geometry] > 1]
        self.numbers = {id(one): place for place, one in enumerate(many, 1)}

    def of(self, geometry: Any, breaks: Sequence[Any]) -> int | None:
        """The number of the cell that a geometry belongs to; None for none."""
        for one in (geometry, *(ref for ref in reversed(breaks))):
            named = re.fullmatch(
                r"(?:cell|pixel) ?(\d{1,4})(?: of .*)?", one.name or "", re.IGNORECASE
            )
            if named:
                return int(named[1])
            if id(one) in self.numbers:
                return self.numbers[id(one)]
        return None


REFERENCE = pygdtf.GeometryReference
WIRING = pygdtf.GeometryWiringObject
UNUSED_NAME = "not used"
BLANK = Channel(Function.OTHER, UNUSED_NAME)


def _all(geometries: Sequence[Any]) -> Iterator[Any]:
    """All geometries, those within others too."""
    for one in geometries:
        yield one
        yield from _all(getattr(one, "geometries", ()))


def _tree(
    geometry: Any, by_name: Mapping[Any, Any], way: tuple[Any, ...]
) -> Iterator[tuple[Any, tuple[Any, ...]]]:
    """A geometry and what hangs on it, with the references on the way to each. A reference stands
    for the geometry that it names; what hangs on that comes with it."""
    if len(way) > 8:
        raise FileError("The geometry of the fixture type refers to itself.")
    if isinstance(geometry, REFERENCE):
        mine = (*way, geometry)
        yield geometry, mine
        target = by_name.get(geometry.geometry)
        for below in getattr(target, "geometries", ()):
            yield from _tree(below, by_name, mine)
        return
    yield geometry, way
    for below in getattr(geometry, "geometries", ()):
        yield from _tree(below, by_name, way)


def _break_of(channel: Any, way: Sequence[Any]) -> int:
    """The break of a channel; where it is overwritten, the last one of the reference."""
    if isinstance(channel.dmx_break, int):
        return max(1, channel.dmx_break)
    breaks = way[-1].breaks if way else ()
    return max(1, breaks[-1].dmx_break) if breaks else 1


def _added(number: int, channel: Any, way: Sequence[Any]) -> int:
    """What the references on the way add to the offsets of a channel in a break."""
    added = 0
    for place, reference in enumerate(way):
        overwritten = not isinstance(channel.dmx_break, int) and place == len(way) - 1
        mine = [one for one in reference.breaks if one.dmx_break == number]
        if overwritten and reference.breaks:
            mine = [reference.breaks[-1]]
        if mine:
            offset = mine[0].dmx_offset
            added += offset.address - 1 + SLOTS * (offset.universe - 1)
    return added


def _alone(attribute: str) -> tuple[Byte | None, str]:
    """A byte whose other half is not there, and the attribute itself."""
    for start, byte in ALONE.items():
        if attribute.startswith(start):
            return Byte(byte), attribute.removeprefix(start)
    return None, attribute


def _at_depth(value: Any, depth: int) -> int:
    """A value in so many bytes, whatever number of them it is written in."""
    shift = 8 * (depth - value.byte_count)
    number = max(0, int(value.value))
    most: int = 256**depth - 1
    moved: int = number << shift if shift >= 0 else number >> -shift
    return min(most, moved)


def _bytes_of(value: Any, depth: int) -> list[int | None]:
    """A value as levels, the coarse one first. One of fewer bytes is repeated into the lower
    ones, as the standard has it."""
    number, count = max(0, int(value.value)), max(1, value.byte_count)
    digits = [min(number, 256**count - 1) >> 8 * (count - 1 - at) & 255 for at in range(count)]
    return [digits[at % count] if at >= count else digits[at] for at in range(depth)]


def _default(held: Any) -> Any:
    """The value that a channel begins at."""
    initial = str(held.initial_function.str_link) if held.initial_function else ""
    for logical in held.logical_channels:
        for one in logical.channel_functions:
            if initial and initial.split(".")[-1] == one.name:
                return one.default
    if held.default is not None and held.default.value:
        return held.default
    return held.logical_channels[0].channel_functions[0].default


def _mode_name(node: Element, taken: Collection[str]) -> str:
    """The name of a mode; its description where that is what the name was made of."""
    name = printable(node.attrib.get("Name", "").strip())[:200]
    said = printable(node.attrib.get("Description", "").strip())[:200]
    if said and plain_name(said) in (name, re.sub(r" \(\d+\)$", "", name)):
        name = said
    name, number = name or "Mode", 2
    whole = name
    while name in taken:
        name, number = f"{whole} ({number})", number + 1
    return name


def _rdm(whole: Any) -> tuple[dict[str, int], str, bool]:
    """The personalities of modes by name, the model over RDM, and whether it speaks RDM."""
    for one in whole.protocols:
        if not isinstance(one, pygdtf.Rdm):
            continue
        found = {}
        for version in getattr(one, "software_versions", ()) or ():
            for personality in getattr(version, "dmx_personalities", ()) or ():
                number = _number(personality.value)
                if number is not None and 1 <= number <= 255:
                    found[str(personality.dmx_mode)] = number
        maker, model = int(one.manufacturer_id), int(one.device_model_id)
        said = 0 < maker < 65536 and 0 <= model < 65536
        return found, f"{maker:04X}:{model:04X}" if said else "", True
    return {}, "", False


def _number(text: object) -> int | None:
    """A number as RDM data has it: hexadecimal with its sign, else decimal."""
    words = str(text or "").strip()
    try:
        return int(words, 16) if words[:2].lower() == "0x" else int(words)
    except ValueError:
        return None


def _connector(wiring: Sequence[Any], component: str) -> str:
    kinds = [
        str(one.connector_type)
        for one in wiring
        if str(one.component_type) == component and one.connector_type
    ]
    return printable(", ".join(dict.fromkeys(kinds)))[:200]
