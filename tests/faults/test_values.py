"""Values that are no such thing are refused by the core's own types, whichever way they come in."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.desk import Desk, TellTale
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.needs import Need, Scope
from fence.core.model.profile import (
    Channel,
    Function,
    Mode,
    Part,
    Profile,
    Range,
    Setter,
    SetterKind,
)
from fence.core.model.show import Position, Show
from fence.core.model.text import check_text, printable, whole_number
from fence.demo import demo_show
from fence.formats.channel_csv import read_channels_csv, write_channels_csv
from fence.formats.chart_files import read_charts_json
from fence.formats.csv_cells import as_text, from_text
from fence.formats.rig_csv import read_rig_csv, write_rig_csv
from fence.formats.show_json import read_show_json, write_show_json
from fence.formats.slot_csv import write_slot_csv
from fence.store.shows import ShowStore
from tests.conftest import Visitor
from tests.rigs import rig

HUGE = 10**30
MODES = (Mode("m", (Part(1),)),)
POISON = [
    lambda: Need(Scope.FIXTURE, "²"),
    lambda: Need(Scope.FIXTURE, "٣"),
    lambda: Need(Scope.FIXTURE, "9" * 40),
    lambda: Need(Scope.FIXTURE, "007"),
    lambda: Need(Scope.POSITION, "a\x00"),
    lambda: Setter(SetterKind.FIXED, highest=0),
    lambda: Setter(SetterKind.FIXED, highest=513),
    lambda: Setter(SetterKind.ROTARY, highest=0),
    lambda: Setter(SetterKind.ROTARY, highest=-7),
    lambda: Setter(SetterKind.SWITCHES, fixed_on=(HUGE,)),
    lambda: Desk(buttons=HUGE),
    lambda: Desk(buttons=0),
    lambda: Desk(name="x" * 2000),
    lambda: TellTale(0),
    lambda: Range(0, 255, "x", float("nan"), 1.0),
    lambda: Range(0, 255, "x", 0.0, float("inf")),
    lambda: Channel(Function.RED, cell=HUGE),
    lambda: Channel(Function.RED, "esc \x1b[31m"),
    lambda: Profile("a\nb", "", "M", MODES),
    lambda: Profile("a/b", "", "M", MODES),
    lambda: Profile("../x", "", "M", MODES),
    lambda: Profile("", "", "M", MODES),
    lambda: Profile("x" * 300, "", "M", MODES),
    lambda: Profile("x", "", "M", MODES, power_w=HUGE),
    lambda: Profile("x", "", "M", MODES, weight_kg=float("nan")),
    lambda: Profile("x", "", "M", MODES, revision=0),
    lambda: Fixture(HUGE, "A", "p", "m"),
    lambda: Fixture(0, "A", "p", "m"),
    lambda: Fixture(1, "A\x9b31m", "p", "m"),
    lambda: Fixture(1, "\ud800", "p", "m"),
    lambda: Fixture(1, "A", "p", "m", note="n" * 5000),
    lambda: Fixture(1, "A", "p", "m", number=HUGE),
    lambda: Position(""),
    lambda: Show("x", next_id=HUGE),
    lambda: Show("x", note="n" * 90_000),
]


@pytest.mark.parametrize("make", POISON, ids=[str(n) for n in range(len(POISON))])
def test_the_types_refuse_what_is_no_such_thing(make: Any) -> None:
    """A value that would poison a show cannot be made, and the message is one that can be printed
    anywhere."""
    with pytest.raises(FenceError) as told:
        make()
    assert len(str(told.value)) < 400
    str(told.value).encode("utf-8", "replace")


@pytest.mark.parametrize(
    "key", ["fixture|²", "fixture|" + "9" * 400, "fixture|x", "position|\x00", "nobody|1", "|", ""]
)
def test_a_need_for_nobody_is_refused(visitor: Visitor, shows: ShowStore, key: str) -> None:
    """The page of needs stands after whatever was sent as whom."""
    state = {"revision": shows.get(2).revision}
    assert (
        visitor.post("/shows/2/modes/needs", {"whom": key, "features": "red", **state}).status_code
        == 422
    )
    assert visitor.get("/shows/2/modes").status_code == 200


FIELDS: list[tuple[list[str | int], object]] = [
    (["desk", "buttons"], HUGE),
    (["desk", "universes"], HUGE),
    (["fixtures", 0, "number"], HUGE),
    (["fixtures", 0, "id"], HUGE),
    (["fixtures", 0, "label"], "a\x00b"),
    (["fixtures", 0, "profile"], "p\x9b"),
    (["profiles", 0, "id"], "a/b"),
    (["profiles", 0, "setter", "highest"], 0),
    (["needs"], [{"scope": "fixture", "key": "²", "features": ["red"], "school": None}]),
    (["next_id"], HUGE),
    (["positions", 0, "name"], ""),
]


@pytest.mark.parametrize(
    ("path", "value"), FIELDS, ids=[".".join(map(str, path)) for path, _ in FIELDS]
)
def test_files_are_refused_by_the_same_types(path: list[str | int], value: object) -> None:
    """A show file with such a value is one message that says where."""
    document = json.loads(write_show_json(demo_show()))
    place = document["show"]
    for step in path[:-1]:
        place = place[step]
    place[path[-1]] = value
    with pytest.raises(FenceError, match="At show"):
        read_show_json(json.dumps(document).encode())


@pytest.mark.parametrize("chart_id", ["a\nb", "a/b", "..", "", "a b", "ü", "x" * 200])
def test_charts_with_an_id_that_no_page_can_have(chart_id: str) -> None:
    """Such a chart file is refused, so that no chart is kept whose pages cannot be opened."""
    chart = {
        "id": chart_id,
        "maker": "T",
        "model": "M",
        "modes": [{"name": "m", "parts": [{"footprint": 1}]}],
    }
    data = json.dumps({"format": "fence-charts", "version": 1, "charts": [chart]}).encode()
    with pytest.raises(FenceError, match="chart id"):
        read_charts_json(data)


@given(st.text())
def test_numbers_are_ascii_digits(words: str) -> None:
    """A whole number is up to 15 digits 0 to 9 and nothing else, whatever alphabet has digits of
    its own."""
    tidy = words.strip()
    plain = 0 < len(tidy) <= 15 and set(tidy) <= set("0123456789")
    assert whole_number(words) == (int(tidy) if plain else None)


@given(st.text(max_size=40))
def test_what_is_accepted_as_text_steers_no_terminal(words: str) -> None:
    """A text that the core takes holds nothing that a terminal obeys or a file cannot hold; printed
    it is one line."""
    line = printable(words)
    assert line.isprintable() or not any(ord(c) < 32 or 127 <= ord(c) < 160 for c in line)
    line.encode()
    try:
        check_text("text", words, required=False)
    except FenceError:
        return
    words.encode()
    assert not any((ord(c) < 32 and c not in "\t\n\r") or 127 <= ord(c) < 160 for c in words)


# ---- cells that a spreadsheet would run

STARTS = st.sampled_from(
    ["=1+1", "+1", "-1", "@x", "\tx", "'=x", "''=x", "'x", "=", "'", "\rx", "\nx"]
)
CELLS = st.one_of(st.text(max_size=8), STARTS, st.builds("".join, st.lists(STARTS, max_size=3)))


@given(CELLS)
def test_cells_are_marked_as_text_and_read_back(words: str) -> None:
    """No cell begins as a formula does, and every text comes back."""
    cell = as_text(words)
    assert cell[:1] not in tuple("=+-@\t\r\n")
    assert from_text(cell) == words


def test_formulas_in_a_rig_survive_as_text() -> None:
    """Labels, positions, notes, groups, types and modes that look like formulas go out as text and
    come back."""
    show = rig(("=SUM(A1)", 5, 1, 1), ("'@x", 5, 1, 11), ("-", 5, 1, 21))
    marked = replace(show.fixtures[0], position="+Rill", note="-n", share="")
    show = replace(show, fixtures=(marked, *show.fixtures[1:]))
    written = write_rig_csv(show)
    cells = [cell for line in written.splitlines()[1:] for cell in line.split(",")]
    assert {"'=SUM(A1)", "''@x", "'-", "'+Rill", "'-n"} <= set(cells)
    assert not [cell for cell in cells if cell[:1] in tuple("=+-@")]
    again = read_rig_csv(written.encode()).show.fixtures
    assert [(f.label, f.position, f.note) for f in again] == [
        (f.label, f.position, f.note) for f in show.fixtures
    ]
    assert "'=SUM(A1)" in write_slot_csv(show, 1)


def test_formulas_in_a_chart_survive_as_text() -> None:
    """The words of a chart do as well; its numbers stay numbers, below zero too."""
    part = Part(
        1, (Channel(Function.TILT, "=cmd", ranges=(Range(0, 255, "@up", -10.0, 10.0, "+deg"),)),)
    )
    profile = Profile("x", "-T", "=M", (Mode("+m", (part,)),))
    written = write_channels_csv(profile)
    assert "'-T,'=M,'+m,1,tilt,'=cmd" in written
    assert "'@up,-10.0,10.0,'+deg" in written
    (again,) = read_channels_csv(written.encode())
    assert (again.maker, again.model, again.modes) == (profile.maker, profile.model, profile.modes)


def test_wide_and_varied_csv_is_read_once_each(tmp_path: Path) -> None:
    """Many modes, many footprints of one mode and too many columns: read, or refused, without
    growing by the square."""
    varied = "label,channels,maker,model,mode\n" + "".join(
        f"A{n},{n % 9},T,M,m{n}\n" for n in range(20_000)
    )
    reading = read_rig_csv(varied.encode())
    assert (len(reading.understood), len(reading.show.profiles), len(reading.show.modes)) == (
        20_000,
        1,
        20_000,
    )
    alike = "label,channels,model,mode\n" + "".join(
        f"A{n},{n % 500}+{n // 500},M,m\n" for n in range(20_000)
    )
    reading = read_rig_csv(alike.encode())
    assert (len(reading.understood), len(reading.show.profiles)) == (20_000, 20_000)
    with pytest.raises(FenceError, match=r"50002 columns\. Use up to 200"):
        read_rig_csv(("label,channels" + ",x" * 50_000 + "\nA,1\n").encode())
