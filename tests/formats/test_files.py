"""Files: what goes out comes back, and what is wrong is said in one sentence."""

from __future__ import annotations

import json
from codecs import BOM_UTF8
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.demo import clean_show, demo_show
from fence.formats.chart_files import charts_schema
from fence.formats.csv_cells import Delimiter
from fence.formats.files import read_rig, write_rig
from fence.formats.rig_csv import read_rig_csv, write_rig_csv
from fence.formats.show_json import read_show_json, show_schema, write_show_json
from fence.formats.troubleshooting import troubleshooting_schema
from fence.library import shipped_profiles
from tests.core.edits.test_edits import some_edit
from tests.rigs import rigs

DOCS = Path(__file__).parents[2] / "docs"
SCHEMA = json.loads((DOCS / "show.schema.json").read_text())
VALID = jsonschema.validators.validator_for(SCHEMA)(SCHEMA)
NASTY = [
    "<script>alert(1)</script>",
    '"quoted", with; all\tof it',
    "🌿 fern",
    "x" * 300,
    "شجرة النخيل",
    "two\nlines",
]


@given(st.data(), rigs(most=5))
def test_json_brings_back_every_show(data: st.DataObject, show: Show) -> None:
    """A show written as JSON reads back as itself and is valid by the documented schema."""
    show = some_edit(data.draw, show)
    written = write_show_json(show)
    assert read_show_json(written.encode()) == show
    VALID.validate(json.loads(written))


def test_the_schema_in_the_docs_is_current() -> None:
    """The documented schema is the one that the types give."""
    assert (DOCS / "show.schema.json").read_text() == show_schema()
    assert (DOCS / "charts.schema.json").read_text() == charts_schema()
    assert (DOCS / "troubleshoot.schema.json").read_text() == troubleshooting_schema()


def facts(show: Show) -> list[tuple[object, ...]]:
    titles = {profile.id: (profile.maker, profile.model) for profile in show.profiles}
    return [
        (
            f.number,
            f.label,
            titles[f.profile],
            f.mode,
            show.footprints_of(f),
            f.patch,
            f.position,
            f.share,
            f.pinned,
            f.note,
        )
        for f in show.fixtures
    ]


@pytest.mark.parametrize("show", [clean_show(), demo_show()], ids=["clean", "demo"])
def test_csv_brings_back_the_demo_rigs(show: Show) -> None:
    """The rig survives CSV whole, with the shipped charts found again."""
    again = read_rig("x.csv", write_rig_csv(show).encode(), known=shipped_profiles())
    assert facts(again) == facts(show)
    assert {p.id: p for p in again.profiles} == {p.id: p for p in show.profiles}


@given(rigs())
def test_csv_brings_back_uncharted_rigs(show: Show) -> None:
    """A rig known by footprints only survives CSV; a second pass changes nothing."""
    if not show.fixtures:
        return
    once = read_rig("x.csv", write_rig_csv(show).encode())
    assert facts(once) == facts(show)
    assert write_rig_csv(once) == write_rig_csv(show)


def test_labels_of_every_kind_survive() -> None:
    """Markup, quotes, emoji, length, direction and line breaks in labels come back from both
    formats."""
    show = clean_show()
    fixtures = tuple(
        replace(f, label=label) for f, label in zip(show.fixtures, NASTY, strict=False)
    )
    show = replace(show, fixtures=fixtures)
    for name, text in (("x.csv", write_rig_csv(show)), ("x.json", write_show_json(show))):
        assert [
            f.label for f in read_rig(name, text.encode(), known=shipped_profiles()).fixtures
        ] == NASTY


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
@pytest.mark.parametrize("mark", ["", "\ufeff"])
def test_delimiters_and_byte_order_mark(delimiter: str, mark: str) -> None:
    """Comma, semicolon and tab are understood, with or without a byte order mark; unknown columns
    become notes."""
    lines = [
        ["Label", "channels", "address", "Gel"],
        ["A", "5", "10", "L201"],
        [],
        ["B", "2+3", "20+2/30", ""],
    ]
    data = (mark + "\r\n".join(delimiter.join(line) for line in lines)).encode()
    reading = read_rig_csv(data)
    assert [(f.label, [str(p) for p in f.patch], f.note) for f in reading.show.fixtures] == [
        ("A", ["U1 010"], "gel: L201"),
        ("B", ["U1 020", "U2 030"], ""),
    ]
    assert reading.noted_columns == ("gel",)
    assert [row.remark for row in reading.understood] == ["no universe given, taken as 1"] * 2


def row(**values: str) -> bytes:
    cells = {"label": "A", "channels": "5", **values}
    return (",".join(cells) + "\n" + ",".join(cells.values()) + "\n").encode()


BAD_CSV = [
    ("empty", b"", "empty"),
    ("blank", b"\n \n", "empty"),
    ("no code page", b"label,channels\nF\x81\x8d,5", "Line 2: This is not UTF-8"),
    ("utf-16 without a mark", "label,channels\nA,5".encode("utf-16-le"), "A NUL byte"),
    ("NUL", b"label,channels\nA\0,5", "Line 2: A NUL byte"),
    ("no header", b"A,5\nB,6", "names no column"),
    ("missing column", b"label,address\nA,5", "The column channels is missing"),
    ("column twice", b"label,channels,label\nA,5,B", "twice"),
    ("only a header", b"label,channels\n", "no fixture"),
    ("open quote", b'label,channels\n"A,5\n', "not CSV"),
    ("text in channels", row(channels="five"), "Line 2: “five” in channels"),
    ("channels 513", row(channels="513"), "0 to 512"),
    ("negative channels", row(channels="-1"), "0 to 512"),
    ("no channels", row(channels=""), "channels are empty"),
    ("no label", row(label=""), "label is empty"),
    ("address 0", row(address="0"), "1 to 512"),
    ("address 600", row(address="600"), "1 to 512"),
    ("address in words", row(address="ten"), "1 to 512"),
    ("universe 0", row(universe="0"), "1 to 63999"),
    ("universe 1.5", row(universe="1.5"), "1 to 63999"),
    ("number with a letter", row(number="7a"), "in number"),
    ("foreign digits", row(channels="٥"), "in channels"),
    ("pinned maybe", row(pinned="maybe"), "neither yes nor no"),
    ("too many values", b"label,channels\nA,5,6", "3 values for 2 columns"),
    ("more addresses than parts", row(address="1+2"), "2 parts"),
    ("endless label", row(label="x" * 2000), "up to 1000"),
]


@pytest.mark.parametrize(
    ("data", "told"), [case[1:] for case in BAD_CSV], ids=[case[0] for case in BAD_CSV]
)
def test_malformed_csv(data: bytes, told: str) -> None:
    """Every malformed file gives one clear message."""
    with pytest.raises(FenceError) as refused:
        read_rig("rig.csv", data)
    assert told in str(refused.value)
    assert "\n" not in str(refused.value)


def broken(**changes: object) -> bytes:
    document = json.loads(write_show_json(clean_show()))
    document["show"].update(changes)
    return json.dumps(document).encode()


ONE = {"id": 1, "label": "A", "profile": "p", "mode": "m"}
NEGATIVE = {"name": "m", "parts": [{"footprint": -1}]}
TYPE = {"id": "p", "maker": "", "model": ""}

BAD_JSON = [
    ("no json", b"{", "Invalid JSON"),
    ("deep", b"[" * 100_000, "recursion"),
    ("list", b"[]", "the file"),
    ("other format", b'{"format":"x","version":1,"show":{"name":"a"}}', "Use “fence-show”"),
    ("newer version", b'{"format":"fence-show","version":99,"show":{"name":"a"}}', "version 99"),
    ("unknown field", broken(colour="red"), "show.colour"),
    ("text in a number", broken(next_id="7"), "show.next_id"),
    ("NUL", broken(name="a\0"), "control character"),
    (
        "slot 600",
        broken(fixtures=[{**ONE, "patch": [{"universe": 1, "slot": 600}]}]),
        "no slot 600",
    ),
    ("negative footprint", broken(profiles=[{**TYPE, "modes": [NEGATIVE]}]), "of -1"),
    ("id twice", broken(fixtures=[ONE] * 2), "used twice"),
    (
        "lone surrogate",
        b'{"format":"fence-show","version":1,"show":{"name":"\\ud800"}}',
        "Invalid JSON",
    ),
]


@pytest.mark.parametrize(
    ("data", "told"), [case[1:] for case in BAD_JSON], ids=[case[0] for case in BAD_JSON]
)
def test_malformed_json(data: bytes, told: str) -> None:
    """Every malformed show file gives one clear message."""
    with pytest.raises(FenceError) as refused:
        read_rig("show.json", data)
    assert told in str(refused.value)


def test_fifty_megabytes_are_refused_at_once() -> None:
    """A file that is far too large is refused by its size."""
    with pytest.raises(FenceError, match=r"50 MB\. Use up to 16 MB"):
        read_rig("rig.csv", b"label,channels\n" + b"A,5\n" * (50 * 1024 * 1024 // 4))


def test_refused_rows_leave_no_trace() -> None:
    """Good rows are read although others are refused, and each refusal names its line and text."""
    reading = read_rig_csv(b"label,channels\nA,5\nB,x\nC,6\n")
    assert [f.label for f in reading.show.fixtures] == ["A", "C"]
    assert [(r.line, r.text) for r in reading.refused] == [(3, "B,x")]
    assert [f.id for f in reading.show.fixtures] == [1, 2]


def test_shipped_charts_are_sound() -> None:
    """Names of modes that count channels count them right; fine bytes follow their coarse; defaults
    lie in ranges."""
    assert len(shipped_profiles()) >= 14
    for profile in shipped_profiles():
        for mode in profile.modes:
            word = mode.name.split()[0]
            if word.isdigit() and "channel" in mode.name:
                assert int(word) == mode.footprint, (profile.title, mode.name)
            channels = [channel for part in mode.parts for channel in part.channels]
            assert len(channels) == mode.footprint
            for before, channel in zip([None, *channels], channels, strict=False):
                if channel.byte == "fine":
                    assert before is not None
                    assert (before.function, before.byte) == (channel.function, "coarse")
                if channel.ranges:
                    assert any(r.first <= channel.default <= r.last for r in channel.ranges)
                    covered = [
                        level for r in channel.ranges for level in range(r.first, r.last + 1)
                    ]
                    assert len(covered) == len(set(covered))


@pytest.mark.parametrize("delimiter", list(Delimiter))
@pytest.mark.parametrize("marked", [False, True])
def test_csv_as_a_spreadsheet_wants_it(delimiter: Delimiter, marked: bool) -> None:
    """Whatever parts the cells, and with its mark or without: it comes back as it was."""
    kind = shipped_profiles()[0]
    show = edits.add_fixtures(Show("S"), edits.AddRun(kind, kind.modes[0].name, 3, "Ä;b,1"))
    data = write_rig("x.csv", show, delimiter=delimiter, marked=marked)
    assert data.startswith(BOM_UTF8) == marked
    head = data.removeprefix(BOM_UTF8).split(b"\r\n")[0].decode()
    assert head.count(delimiter.sign) >= 10
    again = read_rig("x.csv", data, known=show.profiles)
    assert [f.label for f in again.fixtures] == [f.label for f in show.fixtures]
    assert [f.patch for f in again.fixtures] == [f.patch for f in show.fixtures]
