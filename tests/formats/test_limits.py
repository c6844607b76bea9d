"""Limits of files on both sides: the last that is read, the first that is refused. Large ones are
made small here."""

from __future__ import annotations

import json
from collections.abc import Callable

import pytest

from fence.core.model.errors import FenceError
from fence.demo import clean_show
from fence.formats.channel_csv import read_channels_csv
from fence.formats.chart_files import read_charts_json
from fence.formats.lines_csv import read_lines_csv
from fence.formats.rig_csv import read_rig_csv
from fence.formats.show_json import read_show_json, write_show_json
from fence.formats.stock_csv import read_stock_csv
from fence.formats.words_csv import read_words_csv

SHOW = {"format": "fence-show", "version": 3, "show": {"name": "S"}}


def rows(head: str, row: str) -> Callable[[int], bytes]:
    """A table with so many rows."""
    return lambda count: (
        head + "\n" + "".join(row.replace("#", str(n)) + "\n" for n in range(1, count + 1))
    ).encode()


def columns(head: str, row: str) -> Callable[[int], bytes]:
    """A table with so many columns."""

    def made(count: int) -> bytes:
        more = count - head.count(",") - 1
        return f"{head}{''.join(f',x{n}' for n in range(more))}\n{row}{',' * more}\n".encode()

    return made


def boxes(count: int) -> bytes:
    """A show with so many boxes."""
    made = [{"id": n, "name": f"N{n}"} for n in range(1, count + 1)]
    return json.dumps({**SHOW, "show": {"name": "S", "nodes": made}}).encode()


def fields(count: int) -> bytes:
    """A show with so many fields, none of which it knows but one."""
    return json.dumps({**SHOW, "show": {f"f{n}": 1 for n in range(count)}}).encode()


CHARTS = {
    "format": "fence-charts",
    "version": 1,
    "charts": [{"id": "a", "maker": "b", "model": "c", "modes": []}],
}
RIG, CHANNEL, LINES = "label,channels", "channel,function", "line,what"
LIMITS = {
    "rig rows": ("rig_csv.MOST_ROWS", 3, read_rig_csv, rows(RIG, "F#,1"), "more than 3 rows"),
    "rig columns": (
        "rig_csv.MOST_COLUMNS",
        5,
        read_rig_csv,
        columns(RIG, "F,1"),
        "names 6 columns",
    ),
    "channel rows": (
        "channel_csv.MOST_ROWS",
        4,
        read_channels_csv,
        lambda n: rows(CHANNEL, "#,red")(n - 1),
        "5 rows",
    ),
    "channel columns": (
        "channel_csv.MOST_COLUMNS",
        5,
        read_channels_csv,
        columns(CHANNEL, "1,red"),
        "names 6 columns",
    ),
    "line rows": (
        "lines_csv.MOST_ROWS",
        3,
        lambda data: read_lines_csv(data, clean_show()),
        rows(LINES, "New #,adapter"),
        "more than 3 rows",
    ),
    "stops": (
        "lines_csv.MOST_STOPS",
        3,
        lambda data: read_lines_csv(data, clean_show()),
        rows(LINES, "New,adapter"),
        "has 4 stops",
    ),
    "stock rows": (
        "stock_csv.MOST_ITEMS",
        3,
        read_stock_csv,
        rows("count,length", "1,#"),
        "more than 3 rows",
    ),
    "words": (
        "words_csv.MOST_WORDS",
        3,
        read_words_csv,
        rows("wording,means", "word#,red"),
        "more than 3 rows",
    ),
    "wording": (
        "words_csv.LONGEST_WORDING",
        6,
        read_words_csv,
        lambda n: f"wording,means\n{'x' * n},red\n".encode(),
        "1 to 6",
    ),
    "bytes": (
        "errors.MOST_BYTES",
        20,
        read_rig_csv,
        lambda n: b"label,channels\nF,1\n".ljust(n),
        "Use up to",
    ),
    "list": ("json_shape.MOST_IN_A_LIST", 3, read_show_json, boxes, "has 4 entries"),
}


@pytest.mark.parametrize("name", LIMITS)
def test_both_sides(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """The last good is read, the first bad is refused in words."""
    place, most, read, made, words = LIMITS[name]
    monkeypatch.setattr(f"fence.formats.{place}", most)
    monkeypatch.setattr("fence.formats.json_shape.MOST_KEYS", 4)
    read(made(most))  # type: ignore[operator]
    with pytest.raises(FenceError, match=words):
        read(made(most + 1))  # type: ignore[operator]


def test_fields_and_values_of_json(monkeypatch: pytest.MonkeyPatch) -> None:
    """Too many fields of one thing, too many values in all: told as that, before anything is made
    of them."""
    monkeypatch.setattr("fence.formats.json_shape.MOST_KEYS", 10)
    with pytest.raises(FenceError, match=r"At show\."):
        read_show_json(fields(10))
    with pytest.raises(FenceError, match="has 11 fields"):
        read_show_json(fields(11))
    text = write_show_json(clean_show())
    values = text.count(",") + text.count("[") + text.count("{")
    monkeypatch.setattr("fence.formats.json_shape.MOST_KEYS", 1000)
    monkeypatch.setattr("fence.formats.json_shape.MOST_VALUES", values)
    assert read_show_json(text.encode()) == clean_show()
    monkeypatch.setattr("fence.formats.json_shape.MOST_VALUES", values - 1)
    with pytest.raises(FenceError, match="values"):
        read_show_json(text.encode())


@pytest.mark.parametrize(
    "kind", ["fixtures", "profiles", "nodes", "lines", "universes", "positions", "accepted"]
)
def test_a_list_is_given_up_at_its_first_fault(kind: str) -> None:
    """Of a hundred thousand faults one is told, and the others are not even looked at."""
    data = json.dumps({**SHOW, "show": {"name": "S", kind: [{}] * 100_000}}).encode()
    with pytest.raises(FenceError, match=rf"At show\.{kind}\.0\.") as told:
        read_show_json(data)
    assert "more like this" not in str(told.value) or len(str(told.value)) < 300
    assert "99999" not in str(told.value)


def test_faults_deep_in_a_chart() -> None:
    """The same for lists within lists, and for files of charts."""
    charts = {**CHARTS, "charts": [{"id": "a", "maker": "b", "model": "c", "modes": [{}] * 50_000}]}
    with pytest.raises(FenceError, match=r"At charts\.0\.modes\.0\."):
        read_charts_json(json.dumps(charts).encode())


def test_eight_hundred_boxes_of_one_name() -> None:
    """Each gets a number of its own, in the order of the file; names that are numbered already keep
    theirs."""
    made = [{"id": n, "name": "Node" if n != 400 else "Node 7"} for n in range(1, 801)]
    show = read_show_json(json.dumps({**SHOW, "show": {"name": "S", "nodes": made}}).encode())
    names = [box.name for box in show.boxes]
    assert names[:7] == ["Node", "Node 2", "Node 3", "Node 4", "Node 5", "Node 6", "Node 7"]
    assert names[399] == "Node 7 2"
    assert len(set(names)) == 800
