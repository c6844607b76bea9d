"""Texts that are made to stall a reader: read within limits, what is left out is said, and the
answer stays small."""

from __future__ import annotations

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.charts.draft import Taken
from fence.core.charts.notation import LONGEST_LINE
from fence.core.charts.reading import MOST_CHARACTERS, MOST_LINES, read_chart_text
from fence.core.charts.sheet import MOST_MODES
from fence.formats.rig_csv import read_rig_csv
from tests.conftest import Visitor
from tests.examples import DEEP, examples

SIZE = min(MOST_CHARACTERS, 20_000 * DEEP)
LARGEST_ANSWER = 2_000_000


def fill(pattern: str) -> str:
    """The pattern again and again, up to the size of a large paste."""
    return (pattern * (SIZE // len(pattern) + 1))[:SIZE]


STALLING = {
    "blanks between": fill("dmx" + " " * 190 + "x\n"),
    "one line of blanks": "dmx" + " " * (SIZE - 4) + "x",
    "tabs and blanks": fill("dmx" + "\t " * 60 + "x\n"),
    "digits": fill("9" * 290 + "\n"),
    "one line of digits": "9" * SIZE,
    "ranges without end": fill("1 Red " + "9-" * 140 + "\n"),
    "unknown words": fill("1 " + "zqx kw " * 40 + "\n"),
    "1600 unknown words": "1 " + "zqx " * 1600,
    "the same line": fill("1 Red\n"),
    "the same line of one mode": fill("2 Red 0-255 x\n"),
    "short lines": fill("a\n"),
    "empty lines": fill("\n"),
    "columns": "4ch 7ch Function\n" + fill("- - x x " * 30 + "\n"),
    "columns everywhere": fill("4ch 5ch " * 30 + "\n" + "1 " * 60 + "x\n"),
    "many ranges": fill("1 Strobe\n" + "".join(f"{n}-{n} x\n" for n in range(250))),
    "far channels": fill("1 a\n512 b\n"),
    "whole modes": fill("1-512 pixel red green\n1 Red\n"),
    "modes": fill("mode: 5ch\n1 red\n"),
    "Kelvin": fill("1 a " + "1.1K" * 70 + "\n"),
    "braces": fill("1 a 0-9 " + " {" * 140 + "\n"),
    "fine bytes": "1 pan\n" + fill("".join(f"{n} pan fine\n" for n in range(2, 512))),
    "markup": fill("1 <b>&'\" 0-9 <'\">\n"),
    "pipes": fill("|" * 290 + "\n"),
    "no breaks": fill("\u00a0" * 290 + "\n"),
}


@pytest.mark.parametrize("name", list(STALLING))
def test_stalling_texts_are_answered_small(visitor: Visitor, name: str) -> None:
    """Any of them, pasted, is answered with what was understood and what was left out, on a page of
    a sane size."""
    told = visitor.post("/shows/2/charts/read", {"text": STALLING[name], "chart": ""}, htmx=True)
    assert told.status_code == 200
    assert len(told.data) < LARGEST_ANSWER


@pytest.mark.parametrize(
    "name", ["digits", "short lines", "columns everywhere", "whole modes", "markup"]
)
def test_stalling_texts_as_charts(visitor: Visitor, name: str) -> None:
    """Taken as a chart it is one, or a form with what was typed, of a sane size."""
    form = {"text": STALLING[name], "model": "Staller", "setter": "menu", "revision": 1}
    page = visitor.post("/shows/2/charts/paste", form)
    assert page.status_code in (302, 422)
    assert len(page.data) < LARGEST_ANSWER


@pytest.mark.parametrize("name", list(STALLING))
def test_stalling_texts_as_files(visitor: Visitor, name: str) -> None:
    """Uploaded as a rig or as charts they are one message or a preview."""
    visitor.get("/")
    for path, filename in (
        ("/import", "x.csv"),
        ("/import", "x.json"),
        ("/shows/2/charts/files", "x.csv"),
    ):
        for head in ("", "label,channels\n", "channel,function\n"):
            data = {
                "file": (io.BytesIO((head + STALLING[name]).encode()), filename),
                "csrf_token": visitor.token,
            }
            told = visitor.client.post(path, data=data)
            assert told.status_code in (302, 422)
            assert len(told.get_data()) < LARGEST_ANSWER
            if told.status_code == 302:
                assert len(visitor.get(told.headers["Location"]).data) < LARGEST_ANSWER


PIECES = st.sampled_from(
    [
        "1",
        "9" * 30,
        " ",
        "\t",
        "-",
        "Red",
        "dmx",
        "ch",
        "4ch ",
        "0-255",
        "|",
        ",",
        ";",
        "K",
        "Hz",
        "%",
        "(",
        "{",
        "[",
        "fine",
        "mode",
        "zq",
        "\n",
        "1 Red\n",
        "..",
        "cell 2",
        "\u00a0",
        "=",
        "'",
        "x" * 40,
    ]
)


@examples(40)
@given(st.lists(PIECES, min_size=1, max_size=12), st.sampled_from([50, 400, SIZE]))
def test_any_pattern_repeated_is_read(pieces: list[str], size: int) -> None:
    """Whatever is repeated, every line is read, or it is said that it is not; modes stay within
    their limits."""
    pattern = "".join(pieces)
    text = (pattern * (size // len(pattern) + 1))[:size]
    draft = read_chart_text(text)
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    assert len(draft.lines) == min(len(lines), MOST_LINES) + (len(lines) > MOST_LINES)
    assert len(draft.modes) <= MOST_MODES
    for line, reading in zip(lines[:MOST_LINES], draft.lines, strict=False):
        assert ("characters are read" in reading.note) == (len(line) > LONGEST_LINE)


def test_what_is_beyond_the_limits_is_said() -> None:
    """Lines, characters and modes beyond the limits are counted in words."""
    many = read_chart_text("1 Red\n" * (MOST_LINES + 7))
    assert many.lines[-1].note == f"8 more lines are not read. Use {MOST_LINES}"
    # more than the modes that are read
    assert Taken.LOST in {line.taken for line in many.lines[:MOST_LINES]}
    long = read_chart_text("x" * (MOST_CHARACTERS + 5))
    assert "5 more characters are not read" in long.lines[-1].note
    assert "only its first 300 characters" in read_chart_text("1 Red " + "x" * 400).lines[0].note


def test_runs_of_blanks_mean_what_two_mean() -> None:
    """However wide the space between two cells is, they are read alike."""
    wide = [
        read_chart_text("1" + " " * n + "Strobe" + " " * n + "0-9" + " " * n + "off").modes
        for n in (2, 3, 60)
    ]
    assert wide[0] == wide[1] == wide[2]


def test_a_csv_of_quotes_and_line_breaks_is_told() -> None:
    """A quote that is never closed, over the whole file, is one message."""
    with pytest.raises(ValueError, match="Line"):
        read_rig_csv(('label,channels\n"' + "x\n" * 90_000).encode())
