"""Rigs as scenes of the standard: read as they were put together with its library, over a rig that
is there, and given back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from io import BytesIO
from math import isclose
from pathlib import Path
from random import Random
from typing import Any
from uuid import UUID
from zipfile import ZipFile

import pymvr
import pytest
from defusedxml.ElementTree import fromstring

from fence.core import edits
from fence.core.edits.arriving import take_over, who_is_who
from fence.core.edits.records import change_each
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.scene import InScene, Place
from fence.core.model.show import Show
from fence.demo import clean_show, demo_show
from fence.formats.gdtf.writing import write_gdtf
from fence.formats.mvr import DESCRIPTION, SPOKEN_OF, read_mvr, write_mvr
from tests.examples import tried
from tests.formats.gdtf.standard import MVR, against

SCENES, A_TEST = tried(200), 20
TWO_PARTS = Profile(
    "sedge-twin", "Sedge", "Twin", (Mode("Both", (Part(4), Part(7))), Mode("One", (Part(5),)))
)
PLAIN = Profile("sedge-plain", "Sedge", "Plain", (Mode("3 ch", (Part(3),)),))
SPECS = {"Sedge@Twin.gdtf": TWO_PARTS, "Sedge@Plain.gdtf": PLAIN}


def scene_file(path: Path, layers: Sequence[Any], aux: Any, types: Sequence[str]) -> bytes:
    """A scene as the library writes it, with some types inside."""
    writer = pymvr.GeneralSceneDescriptionWriter()
    writer.serialize_scene(pymvr.Scene(layers=pymvr.Layers(list(layers)), aux_data=aux))
    for spec in types:
        held = path.with_name(spec)
        held.write_bytes(write_gdtf(SPECS[spec]))
        writer.files_list.append((str(held), spec))
    writer.write_mvr(str(path))
    return path.read_bytes()


def random_scene(chance: Random, path: Path) -> tuple[bytes, dict[str, dict[str, Any]]]:
    """A scene with fixtures in layers and groups, and what each of them is, by its UUID."""
    names = [f"Bar {at}" for at in range(chance.randint(1, 4))]
    positions = [pymvr.Position(name=name) for name in names]
    classes = [pymvr.Class(name=f"Class {at}") for at in range(2)]
    told: dict[str, dict[str, Any]] = {}
    layers = []
    for number in range(chance.randint(1, 3)):
        top = pymvr.ChildList()
        moved = (chance.randint(-9000, 9000), chance.randint(-9000, 9000), chance.randint(0, 9000))
        group = pymvr.GroupObject(name="G", matrix=shifted(*moved), child_list=pymvr.ChildList())
        for _ in range(chance.randint(0, 8)):
            within = chance.random() < 0.3
            held, one = _random_fixture(chance, positions, classes, len(told))
            base = moved if within else (0, 0, 0)
            one["at"] = tuple((a + b) / 1000 for a, b in zip(one["at"], base, strict=True))
            one["layer"] = f"Layer {number}"
            told[held.uuid] = one
            (group.child_list if within else top).fixtures.append(held)
        top.group_objects.append(group)
        layers.append(pymvr.Layer(name=f"Layer {number}", child_list=top))
    aux = pymvr.AUXData(positions=positions, classes=classes)
    return scene_file(path, layers, aux, list(SPECS)), told


def shifted(x: float, y: float, z: float) -> Any:
    # the library writes the matrix of a group only where it has fractions
    return pymvr.Matrix([[1.0, 0, 0, 0], [0, 1.0, 0, 0], [0, 0, 1.0, 0], [x, y, z, 0]])


def _random_fixture(
    chance: Random, positions: list[Any], classes: list[Any], count: int
) -> tuple[Any, dict[str, Any]]:
    spec = chance.choice(list(SPECS))
    profile = SPECS[spec]
    mode = chance.choice(profile.modes)
    parts = len(mode.parts)
    addresses = [
        (at, chance.randint(1, 40), chance.randint(1, 512))
        for at in range(chance.randint(0, parts))
    ]
    position, group = chance.choice(positions), chance.choice(classes)
    place = (
        chance.randint(-20_000, 20_000),
        chance.randint(-20_000, 20_000),
        chance.randint(1, 9000),
    )
    number = chance.choice((None, count + 1))
    commands = [f"Body_Pan,f {chance.randint(0, 90)}"] if chance.random() < 0.3 else []
    unit = chance.choice((None, chance.randint(0, 99)))
    held = pymvr.Fixture(
        name=f"Spot {count}",
        gdtf_spec=spec,
        gdtf_mode=mode.name,
        matrix=shifted(*place),
        position=position.uuid,
        classing=group.uuid,
        fixture_id=str(number) if number else f"A{count}",
        fixture_id_numeric=number or 0,
        unit_number=unit,
        addresses=pymvr.Addresses([pymvr.Address(*one) for one in addresses]),
        custom_commands=pymvr.CustomCommands([pymvr.CustomCommand(one) for one in commands]),
    )
    patch = tuple(Patch(universe, slot) for _, universe, slot in addresses)
    return held, {
        "label": held.name,
        "profile": profile.id,
        "mode": mode.name,
        "patch": patch + (Patch(),) * (parts - len(patch)),
        "number": number,
        "fixture_id": "" if number else f"A{count}",
        "position": position.name,
        "group": group.name,
        "unit": unit,
        "commands": tuple(commands),
        "at": place,
    }


def check(fixture: Fixture, told: dict[str, Any]) -> None:
    """A fixture is what the scene says of it."""
    assert fixture.scene is not None
    for name in ("label", "profile", "mode", "patch", "number", "position"):
        assert getattr(fixture, name) == told[name], name
    for name in ("fixture_id", "group", "unit", "commands", "layer"):
        assert getattr(fixture.scene, name) == told[name], name
    assert fixture.at is not None
    found = (fixture.at.x, fixture.at.y, fixture.at.z)
    near = [isclose(a, b, abs_tol=1e-5) for a, b in zip(found, told["at"], strict=True)]
    assert all(near), (found, told["at"])


@pytest.mark.many
@pytest.mark.parametrize("seed", range(0, SCENES, A_TEST))
def test_random_scenes(tmp_path: Path, seed: int) -> None:
    """Each fixture with its names, addresses by break, place in metres through groups; written and
    read again it is the same; and read over the rig that it gave, it changes nothing."""
    for number in range(seed, seed + A_TEST):
        data, told = random_scene(Random(number), tmp_path / f"{number}.mvr")
        known = list(SPECS.values())
        read = read_mvr(data, known=known)
        assert read.missing == ()
        assert {f.scene.uuid for f in read.show.fixtures if f.scene} == set(told)
        for fixture in read.show.fixtures:
            check(fixture, told[fixture.scene.uuid if fixture.scene else ""])
        again = read_mvr(write_mvr(read.show, "k"), known=known)
        by_uuid = {f.uuid_in("k"): f for f in again.show.fixtures}
        for fixture in read.show.fixtures:
            assert replace(by_uuid[fixture.uuid_in("k")], id=fixture.id) == fixture
        over = take_over(read.show, again.show, SPOKEN_OF, key="k")
        assert over.fixtures == read.show.fixtures


def test_over_a_rig_that_is_there() -> None:
    """By identity first, whatever it is called by now; what changed is changed, what is new is
    added, and nothing is removed unasked; pins and marks stay."""
    show = edits.mark_set(clean_show(), [1])
    show = edits.pin(show, [2])
    data = write_mvr(show, "show-a")
    scene = read_mvr(data, known=show.profiles).show
    renamed = replace(scene.fixtures[0], label="Quite another", position="New bar")
    moved = replace(scene.fixtures[1], patch=(Patch(9, 101),))
    stranger = replace(
        scene.fixtures[2],
        id=999,
        label="Nobody",
        number=None,
        scene=InScene(uuid="8ea2c6ab-1f05-4c2c-9f0c-2a4d4a3e2b10"),
    )
    coming = replace(scene, fixtures=(renamed, moved, stranger), next_id=1000)
    arrivals = who_is_who(show, coming, SPOKEN_OF, "show-a")
    held = [arrival.held.id if arrival.held else None for arrival in arrivals.each]
    assert held == [1, 2, None]
    after = take_over(show, coming, SPOKEN_OF, key="show-a")
    assert after.fixture(1).label == "Quite another"
    assert after.fixture(1).set_to == show.fixture(1).set_to
    assert after.fixture(2).patch == (Patch(9, 101),)
    assert after.fixture(2).pinned
    assert len(after.fixtures) == len(show.fixtures) + 1
    other = who_is_who(show, scene, SPOKEN_OF, "show-b")
    assert [a.held.label if a.held else "" for a in other.each] == [
        f.label for f in scene.fixtures
    ], "another show's scene is told by number and name, not by identity"


@pytest.mark.parametrize("show", [clean_show(), demo_show()], ids=["clean", "demo"])
def test_the_demo_comes_back(show: Show) -> None:
    """In all that a scene carries; valid, and readable by the library; the same file each time, and
    the same identities after a rename."""
    show = change_each(show, [3], lambda f: replace(f, at=Place(1.5, -2.25, 6)))
    data = write_mvr(show, "key")
    assert data == write_mvr(show, "key")
    root = fromstring(ZipFile(BytesIO(data)).read(DESCRIPTION))
    assert against(MVR, root) == []
    read = read_mvr(data, known=show.profiles)
    assert read.missing == ()
    assert read.notes == ()
    for before, after in zip(by_layer(show), read.show.fixtures, strict=True):
        assert (after.label, after.number, after.position) == (
            before.label,
            before.number,
            before.position,
        )
        assert (after.profile, after.mode, after.at) == (before.profile, before.mode, before.at)
        placed = [entry for entry in before.patch if None not in (entry.universe, entry.slot)]
        assert [entry for entry in after.patch if entry.slot] == placed
    assert {one.id for one in read.show.profiles} <= {one.id for one in show.profiles}
    assert all(one == show.profile_by_id[one.id] for one in read.show.profiles)
    library = pymvr.GeneralSceneDescription(BytesIO(data))  # type: ignore[arg-type]
    theirs = [f for layer in library.scene.layers for f in layer.child_list.fixtures]
    assert [one.name for one in theirs] == [one.label for one in by_layer(show)]
    identities = [one.uuid for one in theirs]
    assert len({UUID(one) for one in identities}) == len(show.fixtures)
    renamed = edits.rename(show, 1, "Other name")
    again = pymvr.GeneralSceneDescription(BytesIO(write_mvr(renamed, "key")))  # type: ignore[arg-type]
    assert [f.uuid for layer in again.scene.layers for f in layer.child_list.fixtures] == identities


def by_layer(show: Show) -> list[Fixture]:
    """The fixtures in the order of the file."""
    return list(show.fixtures)


def test_a_type_that_is_missing(tmp_path: Path) -> None:
    """Is asked for with the nearest name on the shelf; its fixtures are not in the rig until a
    chart is chosen; one of the very name is taken by itself."""
    held = pymvr.Fixture(name="A", gdtf_spec="Sedge@Twinn.gdtf", gdtf_mode="Both")
    layer = pymvr.Layer(name="L", child_list=pymvr.ChildList(fixtures=[held]))
    data = scene_file(tmp_path / "a.mvr", [layer], pymvr.AUXData(), [])
    read = read_mvr(data, known=list(SPECS.values()))
    assert read.show.fixtures == ()
    (missing,) = read.missing
    assert (missing.name, missing.fixtures) == ("Sedge@Twinn.gdtf", 1)
    assert missing.nearest == TWO_PARTS
    chosen = read_mvr(data, known=list(SPECS.values()), instead={"Sedge@Twinn.gdtf": TWO_PARTS.id})
    assert chosen.missing == ()
    assert chosen.show.fixtures[0].profile == TWO_PARTS.id
    held.gdtf_spec = "Sedge@Twin.gdtf"
    layer = pymvr.Layer(name="L", child_list=pymvr.ChildList(fixtures=[held]))
    named = scene_file(tmp_path / "b.mvr", [layer], pymvr.AUXData(), [])
    assert read_mvr(named, known=list(SPECS.values())).show.fixtures[0].profile == TWO_PARTS.id


def test_names_of_types_beyond_ascii(tmp_path: Path) -> None:
    """Are found in the package, whatever letters it says they are in; a fixture without any is
    asked for as such, and can be given a chart."""
    spec = "Mühle@Große Säule.gdtf"
    fixtures = [
        pymvr.Fixture(name="A", gdtf_spec=spec, gdtf_mode="3 ch"),
        pymvr.Fixture(name="B", gdtf_mode="3 ch"),
    ]
    layer = pymvr.Layer(name="L", child_list=pymvr.ChildList(fixtures=fixtures))
    writer = pymvr.GeneralSceneDescriptionWriter()
    writer.serialize_scene(pymvr.Scene(layers=pymvr.Layers([layer]), aux_data=pymvr.AUXData()))
    (tmp_path / "a.gdtf").write_bytes(write_gdtf(PLAIN))
    writer.files_list.append((str(tmp_path / "a.gdtf"), spec))
    writer.write_mvr(str(tmp_path / "a.mvr"))
    data = (tmp_path / "a.mvr").read_bytes()
    read = read_mvr(data)
    assert [one.label for one in read.show.fixtures] == ["A"]
    (missing,) = read.missing
    chosen = read_mvr(data, known=[TWO_PARTS], instead={missing.name: TWO_PARTS.id})
    assert [one.profile for one in chosen.show.fixtures][1] == TWO_PARTS.id


def test_what_is_no_fixture_is_told(tmp_path: Path) -> None:
    """Trusses and objects are counted; addresses that do not exist are left open, and told; a UUID
    that two have is nobody's."""
    twice = "8ea2c6ab-1f05-4c2c-9f0c-2a4d4a3e2b10"
    fixtures = [
        pymvr.Fixture(
            name=name,
            uuid=twice,
            gdtf_spec="Sedge@Plain.gdtf",
            gdtf_mode="3 ch",
            addresses=pymvr.Addresses([pymvr.Address(0, universe, 7), pymvr.Address(1, 2, 9)]),
        )
        for name, universe in (("A", 70_000), ("B", 3))
    ]
    geometries = pymvr.Geometries()
    children = pymvr.ChildList(
        fixtures=fixtures, trusses=[pymvr.Truss(name="T", geometries=geometries)]
    )
    layer = pymvr.Layer(name="L", child_list=children)
    data = scene_file(tmp_path / "a.mvr", [layer], pymvr.AUXData(), list(SPECS))
    read = read_mvr(data)
    one, other = read.show.fixtures
    assert one.patch == (Patch(),)
    assert other.patch == (Patch(3, 7),)
    words = " ".join(read.notes)
    assert "A is at universe 70000, slot 7, which does not exist" in words
    assert "2 addresses, and its mode 1 part" in words
    assert "B has the UUID of another fixture" in words
    assert "Left out, since they are no fixtures: 1 truss." in words
