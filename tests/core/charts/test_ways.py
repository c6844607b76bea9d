"""Texts that are meant otherwise than they stand: read in the way that makes the best chart, with
every line of the text still told of; and texts that are no charts at all."""

from __future__ import annotations

from random import Random

import pytest

from fence.core.charts.draft import Taken
from fence.core.charts.reading import read_chart_text
from fence.core.charts.rewriting import WAYS, ways_of
from tests.core.charts.scoring import TEXTS, cases, told, totals

NO_CHARTS = {
    "price list": "Price list\n1  Red gel sheet  12.50\n2  Blue gel sheet  12.50\n3  Tape  8.90\n4  Hire  9",
    "recipe": "Plum cake\n1 kg plums\n2 eggs\n3 spoons of sugar\n4 cups flour\nBake 40-50 min",
    "cue list": "Cue 1 House to half\nCue 2 Blackout\nCue 3 Blue wash up\nCue 4 Strobe\nCue 5 Special",
    "addresses": "Palm 1  U1  001\nPalm 2  U1  017\nPalm 3  U1  033\nFern 1  U1  065",
    "switches": "Switch  Value\n1  1\n2  2\n3  4\n4  8\n5  16\n6  32\n7  64\n8  128\n9  256",
    "pins": "Pin 1 Ground\nPin 2 Data -\nPin 3 Data +\nPin 4 not used\nPin 5 not used",
    "menu": "1 Soup of the day  6\n2 Green salad  8\n3 Red cabbage  5\n4 White wine  7",
    "crew": "1 Anna  lights\n2 Ben  sound\n3 Cleo  fog",
}


@pytest.mark.parametrize("name", ["weighed.txt", "later.txt", "apart.txt"])
def test_texts_that_are_meant_otherwise(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    """One cell a line, blocks, counted from 0, offsets, sums, source of pages, scans, further
    languages: nothing wrong is left unmarked. The last file was written with the first and read
    only when the ways were done."""
    found = totals(name)
    with capsys.disabled():
        print("\n" + told(name, found))
    assert found["modes"] >= 0.95 * found["all modes"]
    assert found["channels"] >= 0.95 * found["all channels"]
    assert found["wrong unwarned"] == 0


@pytest.mark.parametrize("kind", NO_CHARTS)
def test_what_is_no_chart(kind: str) -> None:
    """Nothing in it is called sure, and it is said to be hardly a chart."""
    draft = read_chart_text(NO_CHARTS[kind])
    assert all(line.taken is not Taken.SURE for line in draft.lines)
    assert draft.hardly or draft.empty


def test_charts_are_charts() -> None:
    """None of those with known words is called anything else."""
    for name in ("kept.txt", "worked.txt"):
        for case in cases(name):
            assert not read_chart_text(case.text).hardly, case.key


def every_text() -> list[str]:
    """All texts of all files."""
    return [case.text for path in sorted(TEXTS.glob("*.txt")) for case in cases(path.name)]


def test_ways_keep_the_lines() -> None:
    """Each line of a way comes from lines of the text, in their order; and every line of the text
    is told of once, whatever way it was read."""
    names = {name for name, _ in WAYS}
    assert len(names) == len(WAYS)
    for text in every_text():
        lines = text.split("\n")
        for name, way in ways_of(lines):
            assert name in names
            for line in way:
                assert line.of
                assert list(line.of) == sorted(line.of)
                assert 1 <= line.of[0] <= line.of[-1] <= len(lines)
        told_of = [line.number for line in read_chart_text(text).lines]
        assert told_of == list(range(1, len(lines) + 1))


def test_any_text_is_read() -> None:
    """Cut, mixed and damaged texts of all files: none of them is an exception."""
    chance, texts = Random(7), every_text()
    for _ in range(600):
        one, other = chance.choice(texts), chance.choice(texts)
        lines = one.split("\n") + other.split("\n")
        match chance.randrange(4):
            case 0:
                chance.shuffle(lines)
            case 1:
                del lines[chance.randrange(len(lines)) :]
            case 2:
                lines = [line[chance.randrange(len(line) + 1) :] for line in lines]
            case _:
                letters = list("\n".join(lines))
                for _ in range(20):
                    letters[chance.randrange(len(letters))] = chance.choice("\t|;,-–0l9<>&\x00ﬁ\n")
                lines = "".join(letters).split("\n")
        read_chart_text("\n".join(lines))
