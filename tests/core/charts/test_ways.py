"""Texts that are meant otherwise than they stand: read in the way that makes the best chart, with
every line of the text still told of; and texts that are no charts at all."""

from __future__ import annotations

from random import Random

import pytest
from hypothesis import given
from hypothesis.strategies import integers

from fence.core.charts.draft import Taken
from fence.core.charts.reading import read_chart_text
from fence.core.charts.rewriting import WAYS, ways_of
from fence.core.charts.weighing import CLOSE
from tests.core.charts.scoring import TEXTS, cases, told, totals
from tests.examples import examples

NO_CHARTS = {
    "price list": "Price list\n1  Red gel sheet  12.50\n2  Blue gel sheet  12.50\n3  Tape  8.90\n4  Hire  9",
    "recipe": "Plum cake\n1 kg plums\n2 eggs\n3 spoons of sugar\n4 cups flour\nBake 40-50 min",
    "cue list": "Cue 1 House to half\nCue 2 Blackout\nCue 3 Blue wash up\nCue 4 Strobe\nCue 5 Special",
    "addresses": "Palm 1  U1  001\nPalm 2  U1  017\nPalm 3  U1  033\nFern 1  U1  065",
    "switches": "Switch  Value\n1  1\n2  2\n3  4\n4  8\n5  16\n6  32\n7  64\n8  128\n9  256",
    "pins": "Pin 1 Ground\nPin 2 Data -\nPin 3 Data +\nPin 4 not used\nPin 5 not used",
    "menu": "1 Soup of the day  6\n2 Green salad  8\n3 Red cabbage  5\n4 White wine  7",
    "timetable": "1  09:00  Doors\n2  10:30  Red hall\n3  12:00  Lunch\n4  13:00  Blue room",
    "patch bay": "1 stage left\n2 stage right\n3 balcony\n4 truss\n5 floor\n6 spare",
    "colours of gels": "L101 Red\nL102 Blue\nL103 Green\nL104 Amber",
    "crew": "1 Anna  lights\n2 Ben  sound\n3 Cleo  fog",
}


@pytest.mark.parametrize("name", ["weighed.txt", "ways.txt", "pages.txt", "apart.txt"])
def test_texts_that_are_meant_otherwise(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    """One cell a line, blocks, counted from 0, offsets, sums, source of pages, scans, further
    languages, pages as viewers copy them: nothing wrong is left unmarked. The last file was written
    with the first and read only when the ways were done."""
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


CLOSE_CALL = "Channel 1\nRed\nChannel 2\nGreen\nChannel 3\nBlue"


def test_a_person_says_how_it_is_meant() -> None:
    """What is offered is what comes of it when it is asked for; as it stands is one of them; a way
    that finds nothing is as none."""
    for case in [*cases("ways.txt"), *cases("weighed.txt")]:
        draft = read_chart_text(case.text)
        for other in draft.others:
            asked = read_chart_text(case.text, way=other.way)
            assert asked.read_as == other.way
            assert [count for _, count in other.modes] == [len(m.channels) for m in asked.modes]
            assert draft.read_as in [one.way for one in asked.others]
    text = next(case.text for case in cases("weighed.txt") if case.key == "channel-then-red")
    best = read_chart_text(text)
    assert best.read_as == "numbers above their functions"
    assert read_chart_text(text, way="no such way") == best
    assert read_chart_text(text, way="").read_as == ""


def test_doubt_of_what_is_nearly_as_good() -> None:
    """Lines that would be something else in a reading that is nearly as good are not called sure,
    and are when a person says how the text is meant."""
    draft = read_chart_text(CLOSE_CALL)
    assert min(other.behind for other in draft.others) < CLOSE
    doubted = [line for line in draft.lines if "it would be something else" in line.note]
    assert doubted
    assert all(line.taken is Taken.GUESS for line in doubted)
    asked = read_chart_text(CLOSE_CALL, way=draft.read_as)
    assert asked.modes[0].channels == draft.modes[0].channels
    assert all("it would be something else" not in line.note for line in asked.lines)


def test_a_clear_call_leaves_no_doubt() -> None:
    """Plain charts keep their sure lines: no other way comes near."""
    for case in cases("final.txt"):
        draft = read_chart_text(case.text)
        assert all("it would be something else" not in line.note for line in draft.lines), case.key


def test_the_score_of_a_mode() -> None:
    """Read whole, so many places doubtful, or hardly read."""
    texts = (
        "1 Red\n2 Green\n3 Blue",
        "1 Red\n2 Gribble\n3 Blue",
        "1 Red\n2 Gribble\n3 Wurz\n4 Mirk",
    )
    scores = [read_chart_text(text).modes[0].score for text in texts]
    assert scores == ["read whole", "1 place doubtful", "hardly read"]


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


ALL_TEXTS = every_text()


@examples(400)
@given(seed=integers(0, 2**48))
def test_any_text_is_read(seed: int) -> None:
    """Cut, mixed and damaged texts of all files: none of them is an exception."""
    read_chart_text(damaged(Random(seed)))


def damaged(chance: Random) -> str:
    """A text that came in badly, of two that are right."""
    one, other = chance.choice(ALL_TEXTS), chance.choice(ALL_TEXTS)
    lines = [*one.split("\n"), *other.split("\n")]
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
            return "".join(letters)
    return "\n".join(lines)
