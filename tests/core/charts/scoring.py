"""Chart texts with the truth beside their lines, and how much of it a reading has.

A text begins with ``=== key | what is odd about it | name:channels, name:channels``. The truth
stands at the end of the line that it comes from, between ⟦ and ⟧: ``pan`` is a channel of the
current mode, ``pan.f`` its fine byte, ``r#2`` of cell 2, ``r@1,-,2`` channel 1 of the first mode
and 2 of the third, ``*r,g,b*1-8`` all of them for each of eight cells, ``[0-9 off]`` levels of the
last channel (``~``: give or take three, ``?``: may be read or not), ``=128`` its default, ``M2``
the second mode from here on, ``+`` one more line of the last channel, ``a|b`` either.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from fence.core.charts.draft import DraftMode, Taken
from fence.core.charts.reading import read_chart_text
from fence.core.model.profile import Byte, Channel
from tests.core.charts.corpus import SHORT

TEXTS = Path(__file__).parent / "texts"
WORDS = {
    **{word: {str(function)} for word, function in SHORT.items()},
    "dim": {"dimmer"}, "str": {"shutter/strobe"}, "spd": {"speed", "function speed"}, "grot": {"gobo rotation"},
    "snd": {"sound"}, "pix": {"pixel"}, "oth": {"other"}, "ctl": {"reset", "other", "program/macro"},
}  # fmt: skip


@dataclass
class Want:
    """A channel as it should be read, and the lines that it comes from."""

    kinds: set[str]
    fine: bool
    cell: int | None
    lines: list[int]
    default: int | None = None
    levels: list[tuple[str, int, int, str]] = field(default_factory=list)


@dataclass
class Case:
    """A text without its marks, and its modes: a pattern for the name, and the channels by
    number."""

    key: str
    text: str
    modes: list[tuple[str, dict[int, Want]]]


def cases(name: str) -> list[Case]:
    """The texts of a file."""
    blocks = (TEXTS / name).read_text(encoding="utf-8").split("=== ")[1:]
    return [_case(*block.partition("\n")[::2]) for block in blocks]


def _case(head: str, body: str) -> Case:
    key, _, modes = (part.strip() for part in head.split(" | "))
    names = [mode.rpartition(":") for mode in modes.split(", ")]
    wanted: list[dict[int, Want]] = [{} for _ in names]
    plain, last, current = [], [], 0
    for number, row in enumerate(body.strip("\n").split("\n"), 1):
        text, _, notes = row.partition("⟦")
        plain.append(text.rstrip(" ") if notes else text)
        for token in re.findall(r"\[[^\]]*\]|[^\s⟧]+", notes):
            if token[0] == "[":
                found = re.match(r"\[([~?]?)(\d+)-(\d+)\s*(.*)\]", token)
                assert found, (key, token)
                for want in last:
                    want.levels.append((found[1], int(found[2]), int(found[3]), found[4].lower()))
            elif token == "+":
                for want in last:
                    want.lines.append(number)
            elif token[0] == "=":
                last[0].default = int(token[1:])
            elif re.fullmatch(r"M\d", token):
                current = int(token[1]) - 1
            else:
                last = list(_channels(token, wanted, current, number))
    assert [len(mode) for mode in wanted] == [int(count) for _, _, count in names], key
    return Case(
        key,
        "\n".join(plain),
        [(name, mode) for (name, _, _), mode in zip(names, wanted, strict=True)],
    )


def _channels(token: str, wanted: list[dict[int, Want]], current: int, line: int) -> Iterator[Want]:
    if token[0] == "*":
        kinds, (low, high) = (
            token[1:].split("*")[0].split(","),
            map(int, token.split("*")[2].split("-")),
        )
        words = [
            (f"{kind}#{cell}", None, current) for cell in range(low, high + 1) for kind in kinds
        ]
    else:
        word, _, places = token.partition("@")
        given = [
            (word, place, mode) for mode, place in enumerate(places.split(",")) if place != "-"
        ]
        words = (
            [(word, int(place), mode if "," in places else current) for word, place, mode in given]
            if places
            else [(word, None, current)]
        )
    for word, place, mode in words:
        word, _, cell = word.partition("#")
        kinds = set().union(*(WORDS[one] for one in word.removesuffix(".f").split("|")))
        want = Want(kinds, word.endswith(".f"), int(cell) if cell else None, [line])
        wanted[mode][place or max(wanted[mode], default=0) + 1] = want
        yield want


def score(case: Case) -> Counter[str]:
    """Right ones and all of each measure (``modes``, ``all modes``), and channels that are wrong
    with nobody warned."""
    draft, found = read_chart_text(case.text), Counter[str]()
    left = list(draft.modes)
    flagged = {line.number for line in draft.lines if line.taken in (Taken.GUESS, Taken.LOST)}
    for name, channels in case.modes:
        mode = max(
            left,
            key=lambda one: sum(_right(want, _at(one, n)) for n, want in channels.items()),
            default=None,
        )
        if mode is not None:
            left.remove(mode)
        whole = mode is not None and len(mode.channels) == len(channels)
        found["modes"] += whole and re.search(name, mode.name, re.I) is not None
        found["all modes"] += 1
        for number, want in channels.items():
            _channel(want, _at(mode, number), mode, flagged, found)
        beyond = max(0, len(mode.channels) - len(channels)) if mode is not None else 0
        found["all channels"] += beyond
        found["wrong unwarned"] += 0 if mode is not None and mode.doubts else beyond
    found["all modes"] += len(left)
    return found


def _at(mode: DraftMode | None, number: int) -> Channel | None:
    return mode.channels[number - 1] if mode is not None and number <= len(mode.channels) else None


def _right(want: Want, got: Channel | None) -> bool:
    return (
        got is not None and str(got.function) in want.kinds and (got.byte is Byte.FINE) == want.fine
    )


def _channel(
    want: Want, got: Channel | None, mode: DraftMode | None, flagged: set[int], found: Counter[str]
) -> None:
    right = _right(want, got) and want.cell in (None, got.cell if got else None)
    found["channels"] += right
    found["all channels"] += 1
    found["wrong unwarned"] += (
        not right and not flagged & set(want.lines) and not (got is None and mode and mode.doubts)
    )
    if want.fine:
        found["fine"] += right
        found["all fine"] += 1
    if want.default is not None:
        found["defaults"] += got is not None and got.default == want.default
        found["all defaults"] += 1
    spans = [(r.first, r.last, r.meaning.lower()) for r in got.ranges] if got else []
    for kind, first, last, word in want.levels:
        slack = 3 if kind == "~" else 0
        hit = next(
            (s for s in spans if abs(s[0] - first) <= slack >= abs(s[1] - last) and word in s[2]),
            None,
        )
        if hit:
            spans.remove(hit)
        if kind != "?":
            found["ranges"] += hit is not None
            found["all ranges"] += 1
    found["all ranges"] += sum(span[:2] != (0, 255) for span in spans)


def totals(name: str) -> Counter[str]:
    """The scores of all texts of a file together."""
    return sum((score(case) for case in cases(name)), Counter[str]())


def told(name: str, found: Counter[str]) -> str:
    """The scores in one line."""
    shares = ", ".join(
        f"{measure} {100 * found[measure] / max(1, found['all ' + measure]):.1f} %"
        for measure in ("modes", "channels", "ranges", "fine", "defaults")
    )
    return f"{name}: {shares}, wrong unwarned {found['wrong unwarned']}"
