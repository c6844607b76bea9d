"""Show files of every version that ever was: kept ones are read, and the names of each are its
own."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from fence.core.model.line import Cable, Device
from fence.core.model.scene import Place
from fence.formats.errors import FileError
from fence.formats.show_json import READ, read_show_json, write_show_json

KEPT = Path(__file__).parent / "shows"


def kept(version: int) -> bytes:
    """The kept file of a version."""
    return (KEPT / f"version-{version}.json").read_bytes()


def changed(version: int, **fields: Any) -> bytes:
    """The same with other fields of its show."""
    file = json.loads(kept(version))
    file["show"].update(fields)
    return json.dumps(file).encode()


def test_a_file_of_each_version_is_kept() -> None:
    """A version that is added brings its file."""
    assert {path.stem for path in KEPT.glob("*.json")} == {f"version-{one}" for one in READ}


@pytest.mark.parametrize("version", READ)
def test_each_version_is_read(version: int) -> None:
    """What it could say is there; it comes back as the newest version, which says the same."""
    show = read_show_json(kept(version))
    assert json.loads(kept(version))["version"] == version
    assert len(show.fixtures) == 15
    assert bool(show.lines) == bool(show.boxes) == bool(show.waivers) == (version > 1)
    again = write_show_json(show)
    assert json.loads(again)["version"] == READ[-1]
    assert read_show_json(again.encode()) == show


def test_the_second_says_what_the_third_says() -> None:
    """In other words: nodes were boxes, a transmitter was a sender, a wireless link air."""
    second, third = (read_show_json(kept(version)) for version in (2, 3))
    assert second == third
    stops = [stop for line in second.lines for stop in line.stops]
    assert {Device.TRANSMITTER, Device.TERMINATOR} <= {stop.device for stop in stops}
    assert Cable.WIRELESS in {stop.cable for stop in stops}
    words = kept(2).decode()
    for former in ('"sender"', '"air"', '"boxes"', '"stops"', '"waivers"', '"device"', '"box"'):
        assert former in words
        assert former not in kept(3).decode()


def test_it_is_written_as_it_is_kept() -> None:
    """The newest is what Fence writes."""
    newest = kept(READ[-1])
    assert json.loads(write_show_json(read_show_json(newest))) == json.loads(newest)


def test_the_fourth_says_more_than_the_third() -> None:
    """Where a fixture hangs, what a scene says of it, and what its maker measured; all else is the
    same."""
    third, fourth = (read_show_json(kept(version)) for version in (3, 4))
    first = fourth.fixtures[0]
    assert first.at == Place(-1.5, 2, 6.25)
    assert first.scene is not None
    assert first.scene.commands == ("Body_Pan,f 50",)
    assert fourth.profiles[0].emitters[0].wavelength_nm == 625
    bare = replace(first, at=None, scene=None)
    assert (bare, *fourth.fixtures[1:]) == third.fixtures
    assert fourth.lines == third.lines


def test_the_fifth_says_more_than_the_fourth() -> None:
    """Which batteries are built in; all else is the same."""
    fourth, fifth = (read_show_json(kept(version)) for version in (4, 5))
    first, *others = fifth.profiles
    assert first.battery_stays
    assert replace(fifth, profiles=(replace(first, battery_stays=False), *others)) == fourth


def test_the_sixth_says_more_than_the_fifth() -> None:
    """Days that differ, and what a display shows before the number; all else is the same."""
    fifth, sixth = (read_show_json(kept(version)) for version in (5, 6))
    assert sixth.day
    assert fifth.day
    assert len(sixth.day.further) == 1
    assert replace(sixth.day, further=()) == fifth.day
    first, *others = sixth.profiles
    assert first.setter.shown_before == "d"
    plain = replace(first, setter=replace(first.setter, shown_before=""))
    assert replace(sixth, day=fifth.day, profiles=(plain, *others)) == fifth


@pytest.mark.parametrize(
    ("fields", "told"),
    [
        ({"boxes": []}, "At show: “boxes” is not a field of version 3. Use “nodes”"),
        ({"waivers": []}, "Use “accepted”"),
        ({"lines": [{"id": 1, "name": "A", "stops": []}]}, "At show.lines.0: “stops”"),
        (
            {"lines": [{"id": 1, "name": "A", "devices": [{"id": 1, "device": "tester"}]}]},
            "At show.lines.0.devices.0: “device” is not",
        ),
        ({"nodes": [{"id": 1, "name": "A", "ip": 7}]}, "At show.nodes.0.ip"),
        (
            {"lines": [{"id": 1, "name": "A", "devices": [{"id": 1, "kind": "lamp"}]}]},
            "At show.lines.0.devices.0.kind",
        ),
        ({"lines": [{"id": 1, "name": "A", "from": {"node": "x", "port": 1}}]}, "from.node"),
        ({"nodes": 7, "lines": "x", "accepted": None}, "At show"),
    ],
)
def test_faults_are_told_in_the_names_of_the_file(fields: dict[str, Any], told: str) -> None:
    """Where it is and what it is called there; a name of before is told as such."""
    with pytest.raises(FileError, match=told.replace(".", r"\.")):
        read_show_json(changed(3, **fields))


def test_faults_of_the_second_keep_its_names() -> None:
    """Its places are not called as in the third."""
    with pytest.raises(FileError, match=r"At show\.boxes\.0\.ip"):
        read_show_json(changed(2, boxes=[{"id": 1, "name": "A", "ip": 7}]))
    with pytest.raises(FileError, match="nodes"):
        read_show_json(changed(2, nodes=[]))
