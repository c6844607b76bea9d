"""Charts as files: what goes out comes back, and a bad line is named."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.formats.channel_csv import read_channels_csv, write_channels_csv
from fence.formats.chart_files import read_charts, read_charts_json
from fence.formats.chart_files import write_charts_json as written
from fence.formats.errors import FileError
from fence.library import shipped_profiles

SCHEMA = json.loads((Path(__file__).parents[2] / "docs" / "charts.schema.json").read_text())


def test_the_whole_library_comes_back() -> None:
    """Every shipped chart, all it says, reads back from JSON and is valid by the documented
    schema."""
    text = written(shipped_profiles())
    assert read_charts_json(text.encode()) == tuple(shipped_profiles())
    jsonschema.validate(json.loads(text), SCHEMA)


@pytest.mark.parametrize("profile", shipped_profiles(), ids=lambda profile: profile.id)
def test_channels_come_back(profile: object) -> None:
    """Channels and ranges of modes in one part read back from CSV, in any order of rows."""
    chart = next(p for p in shipped_profiles() if p is profile)
    modes = tuple(mode for mode in chart.modes if len(mode.parts) == 1 and mode.parts[0].channels)
    text = write_channels_csv(chart)
    if not modes:
        with pytest.raises(FileError, match="no channel below it"):
            read_channels_csv(text.encode())
        return
    assert {mode.name: mode for mode in read_channels_csv(text.encode())[0].modes} == {
        m.name: m for m in modes
    }


def test_a_plain_table_is_enough() -> None:
    """Channel and name alone make a chart; wordings are understood, the file names it."""
    (chart,) = read_charts("Bog Wash.csv", b"channel;name\n2;Rot\n1;Master dimmer\n3;green\n")
    assert chart.model == "Bog Wash"
    assert [str(c.function) for c in chart.modes[0].parts[0].channels] == ["dimmer", "red", "green"]
    assert chart.modes[0].name == "3 channel"


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("name\nred", 1, "“channel” and “function” or “name”"),
        ("channel,name\n1,red\n3,blue", 2, "no channel 2"),
        ("channel,name\n0,red", 2, "Use 1 to 512"),
        ("channel,name\n,red", 2, "A channel number is missing"),
        ("channel,name\n1,", 2, "A function or a name is needed"),
        ("channel,name\n1,red\n1,green", 3, "something else in line 2"),
        ("channel,name,from,to\n1,red,0,300", 2, "does not fit the column to. Use 0 to 255"),
        ("channel,name,from,to\n1,red,9,2", 2, "low first"),
        ("channel,name,from,to\n1,red,9,", 2, "needs both"),
        ("channel,name,byte\n1,pan,half", 2, "not a byte"),
        ("channel,name,from,to,low\n1,cct,0,9,warm", 2, "not a number for low"),
    ],
)
def test_a_bad_row_is_named(text: str, line: int, words: str) -> None:
    """The first bad row is refused with its line and what is accepted."""
    with pytest.raises(FileError, match=words) as caught:
        read_channels_csv(text.encode())
    assert caught.value.line == line


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{}", "Accepted: a charts file"),
        (b'{"format":"fence-show","version":1,"charts":[]}', "Use “fence-charts”"),
        (b'{"format":"fence-charts","version":9,"charts":[]}', "version 9"),
        (b'{"format":"fence-charts","version":1,"charts":[],"more":1}', "more"),
        (b"", "empty"),
    ],
)
def test_other_json_is_refused(data: bytes, words: str) -> None:
    """JSON that is no charts file says what it is taken for and what is accepted."""
    with pytest.raises(FileError, match=words):
        read_charts("x.json", data)


def test_ids_are_used_once() -> None:
    """Two charts of one id in a file are refused, and so is another ending."""
    chart = shipped_profiles()[0]
    with pytest.raises(FileError, match="used twice"):
        read_charts_json(written([chart, replace(chart, model="Other")]).encode())
    with pytest.raises(FileError, match=r"neither \.json, \.csv nor \.gdtf"):
        read_charts("chart.pdf", b"x")


@given(st.text(alphabet='channel,name\n12";\tred', max_size=80))
def test_any_text_is_read_or_refused(text: str) -> None:
    """Any rows give charts or one sentence; nothing else happens."""
    try:
        charts = read_channels_csv(text.encode())
    except FileError:
        return
    assert all(mode.footprint for chart in charts for mode in chart.modes)
