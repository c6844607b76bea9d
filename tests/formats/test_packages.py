"""Damaged, hostile and huge packages: a clear sentence, and nothing else."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from random import Random
from zipfile import ZIP_DEFLATED, ZipFile

import pytest

from fence.demo import clean_show
from fence.formats.errors import FileError
from fence.formats.files import read_rig
from fence.formats.gdtf.reading import MOST_CHANNELS, read_gdtf
from fence.formats.gdtf.writing import write_gdtf
from fence.formats.mvr import write_mvr
from fence.formats.rig_xlsx import write_rig_xlsx
from fence.library import shipped_profiles

SHOW = clean_show()
TYPE = write_gdtf(shipped_profiles()[0])
SCENE = write_mvr(SHOW, "k")
WORKBOOK = write_rig_xlsx(SHOW)
Read = Callable[[bytes], object]


def as_type(data: bytes) -> object:
    return read_gdtf(data)


def as_scene(data: bytes) -> object:
    return read_rig("a.mvr", data, known=SHOW.profiles)


def as_workbook(data: bytes) -> object:
    return read_rig("a.xlsx", data, known=SHOW.profiles)


KINDS = [(as_type, TYPE), (as_scene, SCENE), (as_workbook, WORKBOOK)]


def packed(name: str, text: bytes, *more: tuple[str, bytes]) -> bytes:
    found = BytesIO()
    with ZipFile(found, "w", ZIP_DEFLATED) as package:
        for held, data in ((name, text), *more):
            package.writestr(held, data)
    return found.getvalue()


@pytest.mark.parametrize(("read", "data"), KINDS, ids=["type", "scene", "workbook"])
@pytest.mark.parametrize("seed", range(10))
def test_damaged_anywhere(read: Read, data: bytes, seed: int) -> None:
    """Cut short, bytes changed, a piece twice: it is read, or refused with a sentence."""
    chance = Random(seed)
    for _ in range(5):
        spoilt = bytearray(data)
        kind = chance.choice(("cut", "bytes", "twice", "within"))
        if kind == "cut":
            del spoilt[chance.randrange(len(spoilt)) :]
        elif kind == "bytes":
            for _ in range(chance.randint(1, 40)):
                spoilt[chance.randrange(len(spoilt))] = chance.randrange(256)
        elif kind == "twice":
            at = chance.randrange(len(spoilt))
            spoilt[at:at] = spoilt[at : at + 500]
        else:
            spoilt = bytearray(within(data, chance))
        told = refused(read, bytes(spoilt))
        assert told == "" or (10 < len(told) < 500 and told[0].isupper())


def refused(read: Read, data: bytes) -> str:
    """Why something is refused; empty where it is read."""
    try:
        read(data)
    except FileError as error:
        return str(error)
    return ""


def within(data: bytes, chance: Random) -> bytes:
    """A package whose texts are spoilt, and which is sound as a package."""
    found = BytesIO()
    with ZipFile(BytesIO(data)) as before, ZipFile(found, "w", ZIP_DEFLATED) as after:
        for name in before.namelist():
            text = bytearray(before.read(name))
            for _ in range(chance.randint(0, 30)):
                at = chance.randrange(max(1, len(text)))
                text[at : at + chance.randint(0, 3)] = chance.choice(
                    (b"<", b'"', b"9999999999", b"\xff", b"nan", b"-1", b"", b"&#0;", b"1e999")
                )
            after.writestr(name, bytes(text))
    return found.getvalue()


ENTITIES = b"""<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">
<!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><GDTF DataVersion="1.2"><FixtureType Name="&b;"/></GDTF>"""
OUTSIDE = b"""<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]>
<GDTF DataVersion="1.2"><FixtureType Name="&a;"/></GDTF>"""
DEEP = b"<GDTF>" + b"<a>" * 50_000 + b"</a>" * 50_000 + b"</GDTF>"


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (ENTITIES, "declares entities"),
        (OUTSIDE, "declares entities"),
        (DEEP, "nested deeper"),
        (b"<GDTF", "is not XML"),
        (b"", "is not XML"),
        (b"<other/>", "no fixture type"),
        (b'<GDTF DataVersion="1.2"/>', "no fixture type"),
        (b'<GDTF DataVersion="1.2"><FixtureType Name="a"/></GDTF>', "lacks a mode"),
        ("<GDTF>ü</GDTF>".encode("utf-16"), "no fixture type"),
        (b'<?xml version="1.0" encoding="nothing"?><GDTF/>', "is not XML"),
        (b"\xff\xff\xff<GDTF/>", "is not XML"),
    ],
)
def test_hostile_descriptions(text: bytes, told: str) -> None:
    """Nothing is expanded, nothing outside is read, nothing is followed without end."""
    with pytest.raises(FileError, match=told):
        read_gdtf(packed("description.xml", text))
    with pytest.raises(FileError):
        as_scene(packed("GeneralSceneDescription.xml", text))


def test_a_package_that_fills_any_memory() -> None:
    """A few kilobytes that unpack to gigabytes are refused while they are unpacked."""
    bomb = packed("description.xml", bytes(70 * 2**20))
    assert len(bomb) < 2**20
    with pytest.raises(FileError, match="larger than 64 MB unpacked"):
        read_gdtf(bomb)
    scene = packed("GeneralSceneDescription.xml", bytes(70 * 2**20))
    with pytest.raises(FileError, match="larger than 64 MB unpacked"):
        as_scene(scene)
    book = packed("xl/workbook.xml", bytes(130 * 2**20))
    with pytest.raises(FileError, match="unpacked"):
        as_workbook(book)


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (b"", "cannot be opened as a package"),
        (b"PK\x03\x04", "cannot be opened as a package"),
        (b"label,channels\nA,5\n", "cannot be opened as a package"),
        (packed("other.xml", b"<a/>"), "it lacks “description.xml”"),
    ],
)
def test_what_is_no_package(data: bytes, told: str) -> None:
    """It says what was expected."""
    with pytest.raises(FileError, match=told):
        read_gdtf(data)


def type_of(channels: int, geometry: str = "Body") -> bytes:
    """A type with one mode of so many channels."""
    held = "".join(
        f'<DMXChannel DMXBreak="1" Offset="{at}" Geometry="{geometry}" Highlight="None">'
        '<LogicalChannel Attribute="Dimmer"><ChannelFunction Name="Dimmer 1" Attribute="Dimmer" '
        'DMXFrom="0/1"/></LogicalChannel></DMXChannel>'
        for at in range(1, channels + 1)
    )
    text = (
        '<GDTF DataVersion="1.2"><FixtureType Name="A" Manufacturer="B">'
        '<Geometries><Geometry Name="Body"/></Geometries><DMXModes>'
        f'<DMXMode Name="M" Geometry="Body"><DMXChannels>{held}</DMXChannels></DMXMode>'
        "</DMXModes></FixtureType></GDTF>"
    )
    return packed("description.xml", text.encode())


def test_types_that_are_too_large() -> None:
    """512 slots of a break are read; one more is none; and thousands are refused before they are
    laid out."""
    assert read_gdtf(type_of(512)).profile.modes[0].footprint == 512
    with pytest.raises(FileError, match=r"a channel at slot 513\. Use slots 1 to 512"):
        read_gdtf(type_of(513))
    with pytest.raises(FileError, match=f"lists 5000 channels. Use up to {MOST_CHANNELS}"):
        read_gdtf(type_of(5000))


def test_a_geometry_that_refers_to_itself() -> None:
    """It is told, not followed."""
    text = (
        '<GDTF DataVersion="1.2"><FixtureType Name="A" Manufacturer="B"><Geometries>'
        '<Geometry Name="Body"><GeometryReference Name="R" Geometry="Body"/></Geometry>'
        '</Geometries><DMXModes><DMXMode Name="M" Geometry="Body"><DMXChannels/></DMXMode>'
        "</DMXModes></FixtureType></GDTF>"
    )
    with pytest.raises(FileError, match="refers to itself"):
        read_gdtf(packed("description.xml", text.encode()))
