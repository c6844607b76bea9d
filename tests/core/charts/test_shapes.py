"""Shapes of charts: columns, blocks, ranges in any notation, other languages, doubts where letters
are wrong."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from fence.core.charts.draft import Taken
from fence.core.charts.levels import ranges_of, spans_of
from fence.core.charts.notation import plain
from fence.core.charts.reading import read_chart_text

SHAPES = [
    ("levels before the function", "1  0-255  Pan\n2  0-7  Shutter closed\n   8-247  Strobe\n3  "
                                   "0-255  Red",
     ["pan, shutter/strobe, red"]),
    ("the number last",
     "Level  Function  Channel\n0-255  Pan  1\n0-9  Shutter closed  2\n10-255  Strobe\n0-255  Red "
     " 3",
     ["pan, shutter/strobe, red"]),
    ("from and to apart",
     "Ch  Function  From  To  Meaning\n1  Dimmer  0  255  up\n2  Strobe  0  9  no\n  10  255  "
     "flash",
     ["dimmer, shutter/strobe"]),
    ("side by side", "2-channel mode          3-channel mode\nCH  Function            CH  "
                     "Function\n"
     "1   Red                 1   Dimmer\n2   Blue                2   Red\n                       "
     " 3   Blue",
     ["red, blue", "dimmer, red, blue"]),
    ("modes named by words", "Basic  Wide  Function\n1      1     Dimmer\n-      2     Red\n2     "
                             " 3     Blue",
     ["dimmer, blue", "dimmer, red, blue"]),
    ("ticks", "              2 channels    3 channels\nDimmer            –             ✓\n"
     "Red               ✓             ✓\nBlue              ✓             "
     "✓", ["red, blue", "dimmer, red, blue"]),
    ("cells against colours",
     "Segment  Red  Green  Blue\n1  1  2  3\n2  4  5  6", ["red, green, blue, red, green, blue"]),
    ("heads repeated", "1 Dimmer\nHead 1\n2 Pan\n3 Tilt\n4-7 Repeat channels 2-3 for heads 2-3",
     ["dimmer, pan, tilt, pan, tilt, pan, tilt"]),
    ("a list on a line", "2CH: Red, Blue\n3CH: Dimmer, Red, "
                         "Blue", ["red, blue", "dimmer, red, blue"]),
    ("no numbers", "Mode 1 (3ch)\n• Red\n• Green\n• Blue", ["red, green, blue"]),
    ("goes on overleaf",
     "Mode 3 channels\n1 Red\n2 Green\n17\nMode 3 channels (continued)\n3 "
     "Blue", ["red, green, blue"]),
    ("a title on each page",
     "Rill spot 3 channels\nCh  Function   Value\n1   Shutter    0-9      off\nRill spot 3 "
     "channels\n"
     "           10-255   on\n2   Red\nRill spot 3 channels\n3   "
     "Blue", ["shutter/strobe, red, blue"]),
    ("quoted cells", '"1","Pan, '
                     'fine","0-255",""\n"2","Shutter","0-19","Closed"\n"","","20-255","Open"',
     ["pan, shutter/strobe"]),
    ("German", "3-Kanal-Modus\nKanal  Funktion  Wert\n1  Gesamthelligkeit  0 bis 255\n2  Weiß  "
               "0–255\n3  Grün",
     ["dimmer, white, green"]),
    ("French", "Canal 1 : Gradateur\nCanal 2 : Obturateur 0 à 9 fermé\nCanal 3 : Roue de couleurs",
     ["dimmer, shutter/strobe, colour wheel"]),
    ("Spanish", "MODO DE 2 CANALES\nCanal 1: Rojo\nCanal 2: Ámbar", ["red, amber"]),
    ("Dutch", "Kanaal 1  Helderheid  0 t/m 255\nKanaal 2  Groen", ["dimmer, green"]),
    ("first, second", "first channel: red\nsecond channel: blue", ["red, blue"]),
    ("a mode in every row", "Mode\tCh\tFunction\nStd\t1\tPan\nStd\t2\tRed\nExt\t1\tPan\nExt\t2\tPan fine",
     ["pan, red", "pan, pan"]),
    ("one behind the other", "4-kanaals\n1 Rood 2 Groen 3 Blauw 4 "
                             "Wit", ["red, green, blue, white"]),
    ("numbers of a cell", "1 Dimmer\n2,3,4 Cell 1: red, green, blue\n5-7 cell 2 R G B",
     ["dimmer, red, green, blue, red, green, blue"]),
    ("least and most before the function", "Channel,Min,Max,Function\n1,0,255,Intensity\n2,0,127,Red",
     ["dimmer, red"]),
    ("names before the counts",
     "Ch. | 2ch | 3ch | What it does\nPan | 1 | 1 | 540\nPan fine | - | 2 |\nColor | 2 | 3 | red",
     ["pan, colour wheel", "pan, pan, colour wheel"]),
    ("offsets", "Offset +0  Dimmer\nOffset +1  Red", ["dimmer, red"]),
]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "modes"), [case[1:] for case in SHAPES], ids=[case[0] for case in SHAPES]
)
def test_a_table_is_read_as_a_table(text: str, modes: list[str]) -> None:
    """Whatever the columns and blocks are; no range of levels becomes a channel."""
    draft = read_chart_text(text)
    assert [
        ", ".join(str(channel.function) for channel in mode.channels) for mode in draft.modes
    ] == modes
    assert [line.number for line in draft.lines] == list(range(1, len(text.split("\n")) + 1))


@pytest.mark.parametrize(
    ("row", "levels"),
    [
        ("0 ↔ 255 up", [(0, 255, "up")]),
        ("00h-0Ah closed, 0Bh-FFh open", [(0, 10, "closed"), (11, 255, "open")]),
        ("0x10-0xFF open", [(16, 255, "open")]),
        ("<10 closed, ≥ 10 open", [(0, 9, "closed"), (10, 255, "open")]),
        ("from 200 on open", [(200, 255, "open")]),
        ("up to 9 off, 10 and up on", [(0, 9, "off"), (10, 255, "on")]),
        ("10 à 20 lent", [(10, 20, "lent")]),
        ("de 0 a 9 nada, de 10 a 255 rápido", [(0, 9, "nada"), (10, 255, "rápido")]),
        ("000 ... 015 aus", [(0, 15, "aus")]),
        (
            "0-127 forwards, 128 stop, 129-255 back",
            [(0, 127, "forwards"), (128, 128, "stop"), (129, 255, "back")],
        ),
        ("off 0-9, on 10-255", [(0, 9, "off"), (10, 255, "on")]),
        ("0-50% low; 51-100% high", [(0, 130, "low"), (131, 255, "high")]),
        ("8-255 patterns 1 to 15", [(8, 255, "patterns 1 to 15")]),
        ("16-255 1 Hz to 25 Hz", [(16, 255, "1 Hz to 25 Hz")]),
        ("l0-2S5 open", [(10, 255, "open")]),
        ("gobos 1 to 6", []),
        ("2700 K to 6500 K", []),
    ],
)
def test_levels_in_any_notation(row: str, levels: list[tuple[int, int, str]]) -> None:
    """Levels are what fits together; what counts things, and units of the world outside, are
    none."""
    spans = spans_of(plain(row))
    assert [(r.first, r.last, r.meaning) for r in ranges_of(plain(row), spans)] == levels


def test_wrong_letters_are_a_doubt() -> None:
    """A misspelled word or a letter for a digit is understood, and never called sure."""
    draft = read_chart_text("1  Dirnmer\n2  Strobc\n   O-9 off\n   1O-255 slow to fast")
    assert [str(channel.function) for channel in draft.modes[0].channels] == [
        "dimmer",
        "shutter/strobe",
    ]
    assert [(r.first, r.last) for r in draft.modes[0].channels[1].ranges] == [(0, 9), (10, 255)]
    assert all(line.taken is Taken.GUESS for line in draft.lines)


def test_levels_of_nobody_are_no_channels() -> None:
    """Numbers that fit no run of channels are marked, not made into two hundred channels."""
    draft = read_chart_text("Canopy\n8-247 Strobe, slow to fast\n248-255 Open")
    assert draft.empty
    assert [line.taken for line in draft.lines] == [Taken.LOST] * 3


def test_the_command_reads_as_the_page_does(tmp_path: Path) -> None:
    """Modes with channels, bytes, defaults and ranges; every line with what it was taken for."""
    file = tmp_path / "chart.txt"
    file.write_text(
        "2 channel mode\n1 Pan (default 128)\n2 Shutter: 0-9 closed, 10-255 open\nblah\n"
    )
    command = [sys.executable, "-m", "fence.cli", "chart", str(file), "--json"]
    data = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
    (mode,) = data["modes"]
    assert (mode["name"], mode["doubts"]) == ("2 channel mode", [])
    assert [c["function"] for c in mode["channels"]] == ["pan", "shutter/strobe"]
    assert (
        mode["channels"][0]["default"],
        mode["channels"][0]["byte"],
        mode["channels"][0]["cell"],
    ) == (
        128,
        "whole",
        None,
    )
    assert mode["channels"][1]["ranges"][1] == {"first": 10, "last": 255, "meaning": "open"}
    assert [line["taken"] for line in data["lines"]] == [
        "heading",
        "sure",
        "sure",
        "not understood",
        "blank",
    ]
    missing = subprocess.run(
        [*command[:4], str(tmp_path / "none.txt")], capture_output=True, text=True, check=False
    )
    assert (missing.returncode, len(missing.stderr.splitlines())) == (2, 1)
