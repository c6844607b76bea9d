"""A rig as a scene of the standard [DIN SPEC 15801]: read with its types, and written with them."""

from __future__ import annotations

import difflib
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from io import BytesIO
from typing import Any
from uuid import NAMESPACE_URL, uuid5
from xml.etree.ElementTree import indent, tostring
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

import pymvr

from fence.core.model.address import MAX_UNIVERSE, SLOTS
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import HIGHEST_NUMBER, Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile
from fence.core.model.scene import MOST_COMMANDS, InScene, Place, check_uuid
from fence.core.model.show import Position, Show
from fence.core.model.text import counted, joined, printable
from fence.formats.errors import FileError
from fence.formats.gdtf.attributes import plain_name
from fence.formats.gdtf.reading import DAMAGED, ReadType, read_gdtf
from fence.formats.gdtf.shelf import beside
from fence.formats.gdtf.writing import EPOCH, mode_names, write_gdtf
from fence.formats.packages import Package, read_xml
from fence.formats.scenes import Missing

WHAT = "a scene (.mvr)"
DESCRIPTION = "GeneralSceneDescription.xml"
MOST_FIXTURES, MOST_TYPES = 50_000, 1_000
MOST_OF_A_TYPE = 32 * 2**20
"""Bytes of a fixture type within a scene; most of it are pictures and models."""
A_METRE = 1000.0
"""Scenes are in millimetres."""
LEFT_OUT = {
    "scene_objects": ("scene object", "scene objects"),
    "focus_points": ("focus point", "focus points"),
    "supports": ("support", "supports"),
    "trusses": ("truss", "trusses"),
    "video_screens": ("video screen", "video screens"),
    "projectors": ("projector", "projectors"),
}
SPOKEN_OF = (
    "number",
    "label",
    "model",
    "mode",
    "universe",
    "address",
    "position",
    "place",
    "scene",
)
"""The columns of a rig that a scene speaks of."""
NAMELESS = "a type without a name"
LAYER = "Rig"
"""The layer of fixtures that are in none."""
Rows = tuple[tuple[float, float, float], ...]
"""A transformation: three rows of a rotation, and where its origin is, in millimetres."""
AS_IT_IS: Rows = ((1, 0, 0), (0, 1, 0), (0, 0, 1), (0, 0, 0))


@dataclass(frozen=True, slots=True)
class ReadScene:
    """The rig of a scene as a show, what was left out, what there is to say, and the types that it
    lacks. A fixture of a missing type is not in the show."""

    show: Show
    notes: tuple[str, ...]
    missing: tuple[Missing, ...]
    types: tuple[ReadType, ...]


def read_mvr(
    data: bytes,
    *,
    name: str = "Scene",
    known: Sequence[Profile] = (),
    instead: Mapping[str, str] | None = None,
) -> ReadScene:
    """The rig of an ``.mvr`` file. ``known`` are the charts on the shelf; ``instead`` gives the
    chart for a type that is missing, by its name in the scene. ``FileError`` says what is wrong."""
    package = Package(data, WHAT)
    root = read_xml(package.read(DESCRIPTION), WHAT)
    node = root.find("Scene")
    if root.tag != "GeneralSceneDescription" or node is None:
        raise FileError(f"This is not {WHAT}: there is no scene in its description.")
    count = sum(1 for _ in node.iter("Fixture"))
    if count > MOST_FIXTURES:
        raise FileError(f"The scene has {count:,} fixtures. Use up to {MOST_FIXTURES:,}.")
    try:
        scene = pymvr.Scene(xml_node=node)
        return _Reading(package, scene, name, known, instead or {}).read()
    except FileError:
        raise
    except FenceError as error:
        raise FileError(f"The scene cannot be taken over: {error}") from None
    except RecursionError:
        raise FileError("The scene is nested without end.") from None
    except DAMAGED as error:
        said = printable(str(error)[:100])
        raise FileError(f"The scene is damaged: a value cannot be read ({said}).") from None


@dataclass
class _Reading:
    """One scene while it is read."""

    package: Package
    scene: Any
    name: str
    known: Sequence[Profile]
    instead: Mapping[str, str]
    left_out: Counter[str] = field(default_factory=Counter)
    notes: list[str] = field(default_factory=list)
    types: dict[str, ReadType | None] = field(default_factory=dict)
    lacking: Counter[str] = field(default_factory=Counter)

    def read(self) -> ReadScene:
        """The rig, and what there is to say."""
        aux = self.scene.aux_data
        self.positions = {one.uuid: one.name for one in aux.positions} if aux else {}
        self.classes = {one.uuid: one.name for one in aux.classes} if aux else {}
        self.by_title = {_plain(one.title): one for one in self.known}
        self.by_id = {one.id: one for one in self.known}
        fixtures: list[Fixture] = []
        profiles: dict[str, Profile] = {}
        seen: set[str] = set()
        for held, layer, rows in self._all():
            profile = self._type(_as_written(held.gdtf_spec or "") or NAMELESS)
            if profile is None:
                continue
            profiles.setdefault(profile.id, profile)
            fixtures.append(self._fixture(held, layer, rows, len(fixtures) + 1, profile, seen))
        names = list(dict.fromkeys(one.position for one in fixtures if one.position))
        show = Show(
            self.name,
            tuple(fixtures),
            tuple(profiles.values()),
            positions=tuple(Position(one) for one in names),
            next_id=len(fixtures) + 1,
        )
        return ReadScene(
            show, self._told(), self._missing(), tuple(filter(None, self.types.values()))
        )

    def _told(self) -> tuple[str, ...]:
        told = list(self.notes)
        if self.left_out:
            words = [counted(count, *LEFT_OUT[kind]) for kind, count in self.left_out.items()]
            told.append(f"Left out, since they are no fixtures: {joined(words, most=6)}.")
        return tuple(told)

    def _missing(self) -> tuple[Missing, ...]:
        titles = {_plain(one.title): one for one in self.known}
        found = []
        for spec, count in self.lacking.items():
            near = difflib.get_close_matches(_plain(_stem(spec)), list(titles), 1, 0.5)
            found.append(Missing(spec, count, titles[near[0]] if near else None))
        return tuple(found)

    # ---- objects

    def _all(self) -> Iterator[tuple[Any, str, Rows]]:
        """All fixtures with their layer and where they are, however deep they hang."""
        for layer in self.scene.layers:
            rows = _rows(layer.matrix)
            yield from self._below(layer.child_list, printable(layer.name or ""), rows)

    def _below(self, children: Any, layer: str, rows: Rows) -> Iterator[tuple[Any, str, Rows]]:
        if children is None:
            return
        for kind in LEFT_OUT:
            others = getattr(children, kind)
            if others:
                self.left_out[kind] += len(others)
            for one in others:
                below = getattr(one, "child_list", None)
                yield from self._below(
                    below, layer, _within(rows, _rows(one.matrix)) if below else rows
                )
        for one in children.group_objects:
            yield from self._below(one.child_list, layer, _within(rows, _rows(one.matrix)))
        for one in children.fixtures:
            here = _within(rows, _rows(one.matrix))
            yield one, layer, here
            yield from self._below(one.child_list, layer, here)

    def _type(self, spec: str) -> Profile | None:
        """The chart of a type: out of the scene, chosen instead, or the one on the shelf of that
        name."""
        if spec not in self.types:
            self.types[spec] = self._read_type(spec)
        read = self.types[spec]
        if read is not None:
            return read.profile
        found = self.by_id.get(self.instead.get(spec, "")) or self.by_title.get(_plain(_stem(spec)))
        if found is None:
            self.lacking[spec] += 1
        return found

    def _read_type(self, spec: str) -> ReadType | None:
        wanted = spec.casefold()
        names = (one for one in self.package.names if _as_written(one).casefold() == wanted)
        held = next(names, None)
        if held is None:
            return None
        if len(self.types) >= MOST_TYPES:
            raise FileError(f"The scene has more than {MOST_TYPES:,} types.")
        try:
            read = read_gdtf(self.package.read(held, MOST_OF_A_TYPE), list(self.by_id))
        except FileError as error:
            self.notes.append(f"The type {printable(spec[:80])} cannot be read: {error}")
            return None
        known = self.by_id.get(read.profile.id)
        return replace(read, profile=beside(read.profile, known)) if known else read

    def _fixture(
        self, held: Any, layer: str, rows: Rows, number: int, profile: Profile, seen: set[str]
    ) -> Fixture:
        label = printable((held.name or "").strip())[:200] or f"Fixture {number}"
        fixture_number = _number_of(held)
        said = printable(held.fixture_id or "").strip()[:200]
        position = printable(self.positions.get(held.position, "") or "").strip()[:200]
        mode = _mode_of(profile, held.gdtf_mode or "")
        parts = len(profile_mode.parts) if (profile_mode := profile.mode(mode)) else 1
        return Fixture(
            id=number,
            label=label,
            profile=profile.id,
            mode=mode,
            number=fixture_number,
            position=position,
            patch=self._patch(held, label, parts),
            at=_place(rows),
            scene=InScene(
                uuid=self._uuid(held, seen),
                fixture_id="" if said == str(fixture_number) else said,
                unit=held.unit_number,
                layer="" if layer == LAYER else layer[:200],
                group=printable(self.classes.get(held.classing, "") or "")[:200],
                commands=tuple(
                    printable(one.custom_command or "")[:300] for one in held.custom_commands
                )[:MOST_COMMANDS],
                turn=_turn(rows),
            ),
        )

    def _uuid(self, held: Any, seen: set[str]) -> str:
        """Its identity; none where it is none, or where another one has it already."""
        try:
            uuid = check_uuid(held.uuid or "")
        except EditError:
            return ""
        if uuid in seen:
            self.notes.append(f"{printable(held.name or '')[:80]} has the UUID of another fixture.")
            return ""
        seen.add(uuid)
        return uuid

    def _patch(self, held: Any, label: str, parts: int) -> tuple[Patch, ...]:
        """An address for each break, in their order; what is none is left open, and told."""
        addresses = sorted(held.addresses.addresses, key=lambda one: one.dmx_break)
        found = []
        for one in addresses[:parts]:
            if 1 <= one.universe <= MAX_UNIVERSE and 1 <= one.address <= SLOTS:
                found.append(Patch(one.universe, one.address))
                continue
            found.append(Patch())
            self.notes.append(
                f"{label} is at universe {one.universe}, slot {one.address}, which does not exist: "
                "it has no address."
            )
        if len(addresses) > parts:
            self.notes.append(
                f"{label} has {len(addresses)} addresses, and its mode {counted(parts, 'part')}: "
                "the others are left out."
            )
        return (*found, *(Patch() for _ in range(parts - len(found))))


def _as_written(name: str) -> str:
    """The name of a file in a package: the library, and packages that do not say in what they are
    written, take it for the letters of a former PC."""
    try:
        return name.encode("cp437").decode("utf-8")
    except UnicodeError:
        return name


def _plain(text: str) -> str:
    return "".join(letter for letter in text.casefold() if letter.isalnum())


def _stem(spec: str) -> str:
    """The name of a type without its ending: maker, @, model."""
    return spec[:-5] if spec.casefold().endswith(".gdtf") else spec


def _mode_of(profile: Profile, name: str) -> str:
    """The mode that a scene means: by its name, or by that in the letters of the standard; where
    the type has none such, the name itself, so that the checks tell."""
    if profile.mode(name) is not None:
        return name
    for own, written in mode_names(profile).items():
        if written == name:
            return own
    return printable(name)[:200]


def _number_of(held: Any) -> int | None:
    for one in (held.fixture_id, held.fixture_id_numeric):
        words = str(one or "").strip()
        if words.isascii() and words.isdigit() and 0 < int(words) <= HIGHEST_NUMBER:
            return int(words)
    return None


def _rows(matrix: Any) -> Rows:
    return tuple((float(row[0]), float(row[1]), float(row[2])) for row in matrix.matrix[:4])


def _within(outer: Rows, inner: Rows) -> Rows:
    """A transformation that is told within another one, told in the outermost."""

    def turned(row: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = (sum(row[at] * outer[at][column] for at in range(3)) for column in range(3))
        return x, y, z

    origin = turned(inner[3])
    moved = (origin[0] + outer[3][0], origin[1] + outer[3][1], origin[2] + outer[3][2])
    return (*(turned(row) for row in inner[:3]), moved)


def _place(rows: Rows) -> Place | None:
    """Where it is; at the very origin nobody has placed it."""
    x, y, z = (round(number / A_METRE, 6) for number in rows[3])
    return Place(x, y, z) if x or y or z else None


def _turn(rows: Rows) -> tuple[float, ...]:
    found = tuple(round(number, 9) + 0.0 for row in rows[:3] for number in row)
    return () if found == (1, 0, 0, 0, 1, 0, 0, 0, 1) else found


# ---- out


def write_mvr(show: Show, key: str) -> bytes:
    """The rig as an ``.mvr`` file, with its types inside. ``key`` tells the show from every other
    one: fixtures that came from no scene have their identity from it."""
    specs = _specs(show)
    modes = {profile.id: mode_names(profile) for profile in show.profiles}
    layers: dict[str, list[Any]] = {}
    positions: dict[str, str] = {}
    groups: dict[str, str] = {}
    for one in show.fixtures:
        scene = one.scene or InScene()
        position = positions.setdefault(one.position, _named("position", one.position))
        group = groups.setdefault(scene.group, _named("class", scene.group))
        made = _made(one, specs.get(one.profile), modes.get(one.profile, {}), key)
        made.position = position if one.position else None
        made.classing = group if scene.group else None
        layers.setdefault(scene.layer or LAYER, []).append(made)
    scene_made = pymvr.Scene(
        layers=pymvr.Layers(
            [
                pymvr.Layer(
                    name=name,
                    uuid=_named("layer", name),
                    child_list=pymvr.ChildList(fixtures=fixtures),
                )
                for name, fixtures in layers.items()
            ]
        ),
        aux_data=pymvr.AUXData(
            classes=[pymvr.Class(uuid=uuid, name=name) for name, uuid in groups.items() if name],
            positions=[
                pymvr.Position(uuid=uuid, name=name) for name, uuid in positions.items() if name
            ],
        ),
    )
    writer = pymvr.GeneralSceneDescriptionWriter()
    writer.serialize_scene(scene_made)
    writer.xml_root.set("provider", "Fence")
    writer.xml_root.set("providerVersion", "1")
    indent(writer.xml_root, space=" ")
    xml = tostring(writer.xml_root, encoding="UTF-8", xml_declaration=True)
    return _packed(xml, {specs[one.id]: one for one in show.profiles if one.id in specs})


def _packed(xml: bytes, types: Mapping[str, Profile]) -> bytes:
    found = BytesIO()
    with ZipFile(found, "w") as package:
        entry = ZipInfo(DESCRIPTION, EPOCH)
        entry.compress_type = ZIP_DEFLATED
        package.writestr(entry, xml)
        for spec, profile in types.items():
            entry = ZipInfo(spec, EPOCH)
            entry.compress_type = ZIP_STORED  # it is a package itself
            package.writestr(entry, write_gdtf(profile))
    return found.getvalue()


def _named(what: str, name: str) -> str:
    return str(uuid5(NAMESPACE_URL, f"fence:{what}:{name}"))


def _specs(show: Show) -> dict[str, str]:
    """The file of each type that is used, by the id of its chart; each once."""
    used = {one.profile for one in show.fixtures}
    found: dict[str, str] = {}
    for profile in show.profiles:
        if profile.id not in used:
            continue
        stem = f"{plain_name(profile.maker)}@{plain_name(profile.model)}"
        stem = "".join("-" if letter in '/\\:*?"<>|' else letter for letter in stem)
        name, number = f"{stem}.gdtf", 2
        while name.casefold() in map(str.casefold, found.values()):
            name, number = f"{stem} ({number}).gdtf", number + 1
        found[profile.id] = name
    return found


def _made(fixture: Fixture, spec: str | None, modes: Mapping[str, str], key: str) -> Any:
    scene = fixture.scene or InScene()
    turn = scene.turn or (1, 0, 0, 0, 1, 0, 0, 0, 1)
    at = fixture.at or Place(0, 0, 0)
    rows = [[*turn[start : start + 3], 0] for start in (0, 3, 6)]
    origin = [_millimetres(at.x), _millimetres(at.y), _millimetres(at.z), 0]
    number = fixture.number
    return pymvr.Fixture(
        name=fixture.label,
        uuid=fixture.uuid_in(key),
        gdtf_spec=spec,
        gdtf_mode=modes.get(fixture.mode, plain_name(fixture.mode)),
        matrix=pymvr.Matrix([*rows, origin]),
        fixture_id=scene.fixture_id or (str(number) if number is not None else ""),
        fixture_id_numeric=number or 0,
        unit_number=scene.unit,
        addresses=pymvr.Addresses(
            [
                pymvr.Address(dmx_break=place, universe=entry.universe, address=entry.slot)
                for place, entry in enumerate(fixture.patch)
                if entry.universe is not None and entry.slot is not None
            ]
        ),
        custom_commands=pymvr.CustomCommands(
            [pymvr.CustomCommand(custom_command=one) for one in scene.commands]
        ),
    )


def _millimetres(metres: float) -> float:
    return round(metres * A_METRE, 3)
