"""Lines and stock as CSV: what goes out comes back; what is wrong is named with its line."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.box import Box, Port
from fence.core.model.line import Cable, Device, Line, Plug, Power, Source
from fence.core.model.show import Show
from fence.core.model.stock import Item, Kind
from fence.core.model.wiring import wiring_of
from fence.formats.errors import FileError
from fence.formats.lines_csv import read_lines_csv, write_lines_csv
from fence.formats.stock_csv import read_stock_csv, write_stock_csv
from tests.core.model.test_wiring import rig, trees

WORDS = st.sampled_from(["", "14", "=1+1", "blinks, green", 'a "b"', "’s"])


def _plain(line: Line) -> Line:
    """A line without its reasons, which stand at its ends or at itself."""
    return replace(
        line, open_end="", stops=tuple(replace(stop, open_end="") for stop in line.stops)
    )


@given(trees(), WORDS, st.sampled_from([None, *Power]))
def test_lines_come_back_from_their_csv(line: Line, words: str, power: Power | None) -> None:
    """Any tree, with links, powers and texts that a spreadsheet would run."""
    ends = {end.id for end in wiring_of(line).open_ends}
    stops = tuple(
        replace(s, open_end=f"{words}{s.id}" if s.id in ends and s.id % 2 else "")
        for s in line.stops
    )
    stops = tuple(
        replace(s, link=words, sign=words, power=power, hours=6.5, plugs=(Plug.FIVE, Plug.THREE))
        if s.device
        else s
        for s in stops
    )
    gate = Box(4, 'Gate, "1"', ports=(Port(7),))
    first = replace(line, stops=stops, open_end="" if len(ends) % 2 else words, source=Source(4, 7))
    show = replace(rig(), lines=(first, Line(2, "=Empty", 3)), boxes=(gate,))
    text = write_lines_csv(show).encode()
    back = read_lines_csv(text, replace(show, lines=()))
    assert [_plain(held) for held in back.lines] == [_plain(held) for held in show.lines]
    for held, again in zip(show.lines, back.lines, strict=True):
        reasons = [
            wiring_of(one).reason_for(end)
            for one in (held, again)
            for end in wiring_of(held).open_ends
        ]
        assert reasons[: len(reasons) // 2] == reasons[len(reasons) // 2 :]
    assert read_lines_csv(text.replace(b",", b";") if b'"' not in text else text, back) == back


def test_a_short_list_is_enough() -> None:
    """Two columns make a chain; a line of the same name is replaced and keeps its place."""
    show = edits.add_line(edits.add_line(rig(), "Keep", 1), "Line A", 9)
    text = (
        "line;what;name;length\nLine A;fixture;h2;24\nLine A;fixture;H1;3,5\nLine A;terminator;;0\n"
    )
    line = read_lines_csv(text.encode(), show).lines[1]
    assert (line.id, line.name) == (2, "Line A")
    assert [(s.fixture, s.device, s.after, s.length) for s in line.stops] == [
        (2, None, None, 24),
        (1, None, 1, 3.5),
        (None, Device.TERMINATOR, 2, 0),
    ]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("name,number\nX,1\n", "lacks"),
        ("line,what\n", "names no line"),
        (
            "line,what,name\nA,fixture,Nobody\n",
            "Line 2: No fixture of this show is called “Nobody”",
        ),
        (
            "line,what\nA,lamp\n",
            "Line 2: “lamp” does not fit the column what. Use fixture, splitter",
        ),
        ("line,what\n,splitter\n", "Line 2: The name of the line is missing"),
        ("line,what,stop,after\nA,splitter,1,7\n", "which does not come before it"),
        ("line,what,length\nA,splitter,far\n", "Line 2: “far” is not a number for length"),
        ("line,what,universe\nA,splitter,1.5\n", "not a whole number for universe"),
        ("line,what,boosted\nA,splitter,maybe\n", "neither yes nor no"),
        ("line,what,line\nA,splitter,A\n", "twice"),
        (
            "line,what,box,port\nA,splitter,Gate,1\n",
            "Line 2: “Gate port 1” is not a port of this show",
        ),
    ],
)
def test_what_is_wrong_with_lines_is_said(text: str, words: str) -> None:
    """With the line of the file and what is accepted."""
    with pytest.raises(FileError, match=r"(?s).*") as caught:
        read_lines_csv(text.encode(), rig())
    assert words in str(caught.value)


items = st.builds(
    lambda cable, plugs, count, length, price, note: Item(
        Kind.CABLE, count, cable, plugs, length, price, note
    ),
    st.sampled_from([c for c in Cable if c is not Cable.WIRELESS]),
    st.tuples(st.sampled_from([Plug.FIVE, Plug.THREE]), st.sampled_from([Plug.FIVE, Plug.RJ45])),
    st.integers(0, 90),
    st.sampled_from([0.5, 5, 12.5]),
    st.sampled_from([None, 0, 4.5]),
    WORDS,
)
others = st.builds(
    Item,
    st.sampled_from([k for k in Kind if k not in (Kind.CABLE, Kind.ADAPTER)]),
    st.integers(0, 9),
)


@given(st.lists(items | others, max_size=8))
def test_a_stock_comes_back_from_its_csv(stock: list[Item]) -> None:
    """All of it; and a show counts like pieces together."""
    text = write_stock_csv(stock).encode()
    assert read_stock_csv(text) == tuple(stock)
    held = edits.set_stock(Show("S"), stock).stock
    assert sum(item.count for item in held) == sum(item.count for item in stock)
    assert len({replace(item, count=0) for item in held}) == len(held)


def test_a_stock_in_few_words() -> None:
    """Length and count are enough for DMX cables; other rows say what they are; errors have their
    line."""
    found = read_stock_csv(b"length,count\n5,10\n2.5 m,3\n")
    assert [(item.length, item.count, item.cable) for item in found] == [
        (5, 10, Cable.DMX),
        (2.5, 3, Cable.DMX),
    ]
    for text, words in (
        (b"length\n5\n", "lacks count"),
        (b"count,what\n5,hammer\n", "Line 2"),
        (b"count,length\n-1,5\n", "Line 2: -1 is not a count"),
        (b"count,what,length\n1,splitter,5\n", "nothing else in the store has"),
        (b"count\n5\n", "does not fit the column what"),
    ):
        with pytest.raises(FileError) as caught:
            read_stock_csv(text)
        assert words in str(caught.value)
