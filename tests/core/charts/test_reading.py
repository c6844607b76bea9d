"""Reading pasted charts: the corpus, nothing dropped unseen, nonsense and size."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.charts.draft import Taken, profile_from
from fence.core.charts.reading import read_chart_text
from fence.core.charts.writing import write_chart_text
from fence.core.model.errors import ChartError
from fence.core.model.profile import Byte, Channel, Function, Profile
from fence.library import shipped_profiles
from tests.core.charts.corpus import CORPUS, SHORT

Wanted = tuple[Function, bool, int | None]


def wanted(words: str) -> list[Wanted]:
    channels = []
    for word in words.split():
        name, _, cell = word.partition("#")
        channels.append((SHORT[name.rstrip("+")], name.endswith("+"), int(cell) if cell else None))
    return channels


def seen(channel: Channel) -> Wanted:
    return channel.function, channel.byte is Byte.FINE, channel.cell


def test_the_corpus_is_read_right(capsys: pytest.CaptureFixture[str]) -> None:
    """At least 95 % of the channels of the corpus come out right; what did not is printed."""
    right = total = 0
    wrong = []
    for name, (text, modes) in CORPUS.items():
        draft = read_chart_text(text)
        read = [[seen(channel) for channel in mode.channels] for mode in draft.modes]
        for place, words in enumerate(modes):
            channels = wanted(words)
            got = read[place] if place < len(read) else []
            hits = sum(a == b for a, b in zip(channels, got, strict=False))
            right += hits
            total += max(len(channels), len(got))
            if hits < max(len(channels), len(got)):
                wrong.append((name, [str(channel[0]) for channel in got]))
        if len(read) > len(modes):
            total += sum(map(len, read[len(modes) :]))
            wrong.append((name, ["modes too many"]))
    with capsys.disabled():
        print(
            f"\npasted charts: {right} of {total} channels right ({100 * right / total:.1f} %), "
            f"{len(CORPUS)} texts"
        )
    assert len(CORPUS) >= 40
    assert right >= 0.95 * total, wrong


@pytest.mark.parametrize("name", list(CORPUS))
def test_no_line_is_dropped_unseen(name: str) -> None:
    """Every line of a text is accounted for, and each that carries words is read or marked."""
    text = CORPUS[name][0]
    draft = read_chart_text(text)
    assert [line.text for line in draft.lines] == text.replace("\r\n", "\n").split("\n")
    assert all((line.taken is Taken.BLANK) == (not line.text.strip()) for line in draft.lines)


@given(st.text())
def test_any_text_is_read_without_a_stumble(text: str) -> None:
    """Whatever is pasted gives as many line readings as it has lines, and channels only from lines
    that say so."""
    draft = read_chart_text(text)
    assert len(draft.lines) == text.replace("\r\n", "\n").replace("\r", "\n").count("\n") + 1
    if not draft.empty:
        assert any(line.taken in (Taken.SURE, Taken.GUESS) for line in draft.lines)
    for mode in draft.modes:
        assert 1 <= len(mode.channels) <= 512


@pytest.mark.parametrize(
    "text", ["", "\n\n", "lorem ipsum dolor", "hang safely\nmind the step", "12345", "----"]
)
def test_nonsense_gives_an_empty_draft(text: str) -> None:
    """What is no chart gives no channels, and no profile can be made of it."""
    draft = read_chart_text(text)
    assert draft.empty
    with pytest.raises(ChartError, match="No channel was found"):
        profile_from(draft, profile_id="x", maker="", model="x")


def test_two_thousand_lines_are_read_once_each() -> None:
    """A long paste is read in one pass: every line has its reading, and all modes come out."""
    text = "\n".join(f"{n % 40 + 1} {'Red' if n % 2 else 'Blue'} 0-255" for n in range(2000))
    draft = read_chart_text(text)
    assert (len(draft.lines), len(draft.modes)) == (2000, 50)
    assert {line.taken for line in draft.lines} == {Taken.SURE}


def ranges(text: str, offset: int = 0) -> list[tuple[int, int, str]]:
    channel = read_chart_text(text).modes[0].channels[offset]
    return [(found.first, found.last, found.meaning) for found in channel.ranges]


def test_ranges_beside_and_below() -> None:
    """Stepped ranges are read on the line and on lines of their own; an overlap is not taken."""
    assert ranges("1 Strobe 0-9 off, 10-255 slow to fast") == [
        (0, 9, "off"),
        (10, 255, "slow to fast"),
    ]
    assert ranges("1 Shutter\n000-009 closed\n010-255 open") == [
        (0, 9, "closed"),
        (10, 255, "open"),
    ]
    draft = read_chart_text("1 Shutter\n  0-9 closed\n  5-20 odd\n2 Red")
    assert draft.lines[2].taken is Taken.LOST
    assert len(draft.modes[0].channels) == 2


def test_percent_ranges_join_without_a_gap() -> None:
    """Steps in percent cover all levels once, in both ways of showing percent."""
    found = ranges("1 Shutter 0-4% closed, 5-95% strobe, 96-100% open")
    assert [level for first, last, _ in found for level in range(first, last + 1)] == list(
        range(256)
    )


def test_units_are_kept() -> None:
    """Kelvin and degrees are what the levels mean, not levels."""
    channels = (
        read_chart_text("1 CCT 2700K-6500K\n2 Pan 0-540°\n3 Strobe 10-255 1-20 Hz")
        .modes[0]
        .channels
    )
    linear = [
        (r.first, r.last, r.low, r.high, r.unit) for channel in channels for r in channel.ranges
    ]
    assert linear == [
        (0, 255, 2700, 6500, "K"),
        (0, 255, 0, 540, "degrees"),
        (10, 255, 1, 20, "Hz"),
    ]


def test_doubts_are_told() -> None:
    """Missing channels, a wrong count in the heading and a fine byte alone are said."""
    draft = read_chart_text("5 channel mode\n1 Red\n3 Blue\n4 Zoom fine")
    assert draft.modes[0].doubts == (
        "Not in the text: channel 2.",
        "The heading says 5 channels, 4 were read.",
        "Channel 4 is called fine, but its coarse byte is not before it.",
    )


def test_own_words_come_first() -> None:
    """A person can teach a wording; it is then sure."""
    text = "1 Twinkle\n2 Red"
    assert read_chart_text(text).lines[0].taken is Taken.GUESS
    taught = read_chart_text(text, words=[("twinkle", Function.SHUTTER)])
    assert taught.lines[0].taken is Taken.SURE
    assert taught.modes[0].channels[0].function is Function.SHUTTER


def test_two_modes_of_one_name_are_told_apart() -> None:
    """A profile made of a draft keeps every mode."""
    draft = read_chart_text(
        "3 channel mode\n1 Red\n2 Green\n3 Blue\n3 channel mode\n1 Cyan\n2 Magenta\n3 Yellow"
    )
    profile = profile_from(draft, profile_id="x", maker="Trowel", model="T")
    assert [(mode.name, mode.footprint) for mode in profile.modes] == [
        ("3 channel mode", 3),
        ("3 channel mode 2", 3),
    ]


@pytest.mark.parametrize(
    "profile", shipped_profiles(), ids=[profile.title for profile in shipped_profiles()]
)
def test_shipped_charts_read_back_from_their_text(profile: Profile) -> None:
    """A chart written as text reads back channel for channel, without a doubt."""
    modes = [mode for mode in profile.modes if len(mode.parts) == 1 and mode.footprint]
    draft = read_chart_text(write_chart_text(profile))
    assert [(mode.name, mode.channels) for mode in draft.modes] == [
        (m.name, m.parts[0].channels) for m in modes
    ]
    assert {line.taken for line in draft.lines} <= {Taken.SURE, Taken.HEADING, Taken.BLANK}
    assert not any(mode.doubts for mode in draft.modes)
