"""Levels and what they mean, in every notation: ``0-9 off``, ``≥ 240 open``, ``00h-0Ah``, ``de 0 à 9``, ``50 = blue``.

A number is a level only where it fits the others: ranges go upwards, none lies on another one, units of the world
outside (Kelvin, Hertz, degrees, seconds) are none, and "patterns 1 to 15" counts things.
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from fence.core.charts.notation import LOOKALIKES
from fence.core.charts.words import any_of, every
from fence.core.model.profile import Range

MOST_SPANS = 40
"""Ranges that one line may hold."""
MOST_NUMBERS = 100
"""Numbers of one line that are looked at."""

_NUMBER = re.compile(
    r"(?<![\w§])(?<!\d[.,])(?:0x(?P<x>[0-9a-f]{1,2})|(?P<h>[0-9a-f]{1,2})h|(?P<d>\d{1,7}(?:\.\d{1,4}|,\d(?!\d))?)"
    r"|(?P<o>[0-9OoIlSB]{1,3}))"
    rf"(?:(?P<u>\s?(?:%|°|(?:k|hz|ms|(?-i:s)|mm|cm|m|{any_of('units', 'degrees')})(?![\w-])))|(?![^\W_]))",
    re.I,
)
_SEPARATOR = re.compile(rf"\s*(?:-{{1,3}}>?|\.{{2,4}}|…|~|→|>)\s*|\s+(?:{any_of('up_to')})\s+", re.I)
_HEX = re.compile(r"(?<![\w.])([0-9a-f]{2})\s*-\s*([0-9a-f]{2})(?![\w.])", re.I)
_BELOW = re.compile(rf"(?:(?:^|(?<=[\s(\[,;:]))(?:{any_of('below', 'up_to_and_with')})\s*|(<\s?=?|≤)\s*)$", re.I)
_ABOVE = re.compile(rf"(?:(?:^|(?<=[\s(\[,;:]))(?:{any_of('above', 'beginning_with')})\s*|(>\s?=?|≥)\s*)$", re.I)
_AND_UP = re.compile(rf"\s*(?:{any_of('and_up')})(?![^\W_])", re.I)
_FROM = re.compile(rf"(?:^|(?<=[\s(\[,;:]))(?:{any_of('start')})\s+$", re.I)
_COUNTED = re.compile(rf"(?:{any_of('counted', 'channels')})\s*#?\s*$", re.I)
_EQUALS = re.compile(r"\s*[=:]\s*(?=[^\W\d]|[\"'(])")
_WORD_BEHIND = re.compile(r"\s+(?=[^\W\d])")
_EDGES = " \t,;:()[]./=|-→>"


OUTSIDE = 1_000_000
"""Stands for a number that cannot be a level, such as 0.5."""


@dataclass(frozen=True, slots=True)
class Span:
    """Levels that stand in a text: where, from and to which, both with them. ``percent``: they were percents;
    ``scanned``: letters were taken for digits; ``firm``: by more than a number that stands there alone."""

    start: int
    end: int
    first: int
    last: int
    percent: bool = False
    scanned: bool = False
    firm: bool = True
    counted: bool = False


@dataclass(frozen=True, slots=True)
class _Number:
    start: int
    end: int
    value: int
    percent: bool
    outside: bool
    scanned: bool


@lru_cache(maxsize=512)
def spans_of(text: str, *, value: bool = False, expected: int | None = None) -> tuple[Span, ...]:
    """The levels that a text speaks of, in order, as far as they agree with each other.

    ``value``: the text is the cell of a column of levels, where a number alone is one. ``expected``: the level that
    comes next where the text goes on with the levels of a channel; a single number is one only if it fits.
    """
    numbers = _numbers(text)
    found: list[Span] = []
    place = 0
    while place < len(numbers) and len(found) < MOST_SPANS:
        span, used = _span_at(text, numbers, place, value)
        if span is not None:
            found.append(span)
        place += used
    if value and not any(span.last > 9 for span in found) and (hexed := list(_HEX.finditer(text))):
        bare = [Span(m.start(), m.end(), int(m[1], 16), int(m[2], 16)) for m in hexed if int(m[1], 16) <= int(m[2], 16)]
        found = bare or found
    if any(not span.percent and span.firm for span in found):
        found = [span for span in found if not span.percent]
    return tuple(_chain(found, expected))


def _numbers(text: str) -> list[_Number]:
    numbers = []
    for found in itertools.islice(_NUMBER.finditer(text), MOST_NUMBERS):
        if found["x"] or found["h"]:
            value, scanned = int(found["x"] or found["h"], 16), False
        elif found["o"]:
            beside = text[max(0, found.start() - 2) : found.start()] + text[found.end() : found.end() + 2]
            if not any(c.isdigit() for c in found["o"]) and "-" not in beside:
                continue
            read = found["o"].translate(LOOKALIKES)
            if not (read.isascii() and read.isdigit()):  # letters of another case are none that a scan makes of digits
                continue
            value, scanned = int(read), True
        else:
            value, scanned = (int(found["d"]) if found["d"].isdigit() else OUTSIDE), False
        unit = (found["u"] or "").strip()
        numbers.append(
            _Number(found.start(), found.end(), value, unit == "%", unit not in ("", "%") or value > 255, scanned)
        )
    return numbers


def _span_at(text: str, numbers: list[_Number], place: int, value: bool) -> tuple[Span | None, int]:
    """The levels that begin with a number, if any, and how many numbers they take."""
    low = numbers[place]
    high = numbers[place + 1] if place + 1 < len(numbers) else None
    before, behind = text[max(0, low.start - 24) : low.start], text[low.end : low.end + 24]
    lead = before.rstrip()[-1:]
    worded = lead.isalpha() or lead in "<>=≤≥°"
    if high is not None and _SEPARATOR.fullmatch(text, low.end, high.start):
        if low.outside or high.outside:
            return None, 2
        start = low.start - len(found[0]) if worded and (found := _FROM.search(before)) else low.start
        if low.value > high.value:
            return None, 2
        percent = low.percent or high.percent
        first, last = from_percent(low.value, high.value) if percent else (low.value, high.value)
        counted = lead.isalpha() and bool(_COUNTED.search(before))
        return Span(start, high.end, first, last, percent, low.scanned or high.scanned, True, counted), 2
    if low.outside or (low.scanned and not any(c.isdigit() for c in text[low.start : low.end])):
        return None, 1
    percent = low.percent
    if worded and (found := _ABOVE.search(before)):
        whole = _with_itself(found, "≥")
        first = low.value if whole else low.value + 1
        end = low.end + (rest.end() if (rest := _AND_UP.match(behind)) else 0)
        return (
            Span(low.start - len(found[0].lstrip()), end, min(first, 255), 255, percent) if not percent else None
        ), 1
    if rest := _AND_UP.match(behind):
        return Span(low.start, low.end + rest.end(), low.value, 255), 1
    if worded and (found := _BELOW.search(before)):
        whole = _with_itself(found, "≤")
        last = low.value if whole else low.value - 1
        return (Span(low.start - len(found[0].lstrip()), low.end, 0, max(last, 0)) if not percent else None), 1
    if percent:
        return None, 1
    if equals := _EQUALS.match(behind):
        counted = lead.isalpha() and bool(_COUNTED.search(before))
        return Span(low.start, low.end + equals.end(), low.value, low.value, scanned=low.scanned, counted=counted), 1
    alone = not before.strip(_EDGES) and not behind.strip(_EDGES)
    if (value and alone) or (_WORD_BEHIND.match(behind) and (not before.strip() or before.rstrip()[-1] in ",;:([|")):
        return Span(low.start, low.end, low.value, low.value, scanned=low.scanned, firm=value and alone), 1
    return None, 1


def _with_itself(found: re.Match[str], sign: str) -> bool:
    """Whether the number belongs to the levels: ``up to 9`` and ``≥ 10``, but not ``below 10``."""
    words = found[0].strip().lower()
    return "=" in words or sign in words or (found[1] is None and words not in every("below", "above"))


def _chain(found: list[Span], expected: int | None) -> list[Span]:
    """The spans that go upwards one after the other and say most together.

    A single number that nothing calls a level is one only where it closes up with the levels beside it.
    """
    begins = {span.first for span in found} | {256}
    ends = {span.last for span in found} | ({expected - 1} if expected is not None else set())
    kept = [
        span
        for span in found
        if span.firm
        or (span.first - 1 in ends and (span.last + 1 in begins or expected is not None))
        or (span.first == 0 and 1 in begins)
    ]
    best: list[tuple[float, int]] = []
    for place, span in enumerate(kept):
        weight = 0.2 if span.counted else 2.0 if span.firm else 1.0
        weight += 0.5 * (span.first == (expected if expected is not None else 0)) + 0.5 * (span.last == 255)
        value, before = weight, -1
        for other in range(place):
            if kept[other].last < span.first:
                gain = best[other][0] + weight + (1.5 if kept[other].last + 1 == span.first else 0.0)
                if gain > value:
                    value, before = gain, other
        best.append((value, before))
    if not best:
        return []
    place = max(range(len(best)), key=lambda n: (best[n][0], -n))
    chosen = []
    while place >= 0:
        chosen.append(kept[place])
        place = best[place][1]
    chosen.reverse()
    if all(span.counted for span in chosen) and chosen[0].first not in (0, expected):
        return []
    return chosen


def from_percent(first: int, last: int) -> tuple[int, int]:
    """Levels that show as ``first`` to ``last`` percent on every tool, without a gap to the next percent."""
    return math.ceil(255 * min(first, 100) / 100), min(255, math.ceil(255 * (last + 1) / 100) - 1)


def ranges_of(text: str, spans: Sequence[Span]) -> list[Range]:
    """The spans with the words that say what they do: those behind each, or those before where all stand so."""
    behind = [
        text[span.end : spans[place + 1].start if place + 1 < len(spans) else len(text)]
        for place, span in enumerate(spans)
    ]
    before = [text[spans[place - 1].end if place else 0 : span.start] for place, span in enumerate(spans)]
    words = behind
    if len(spans) > 1 and not behind[-1].strip(_EDGES) and all(part.strip(_EDGES) for part in before):
        words = [re.split(r"[:|]|\s{2,}", before[0])[-1], *before[1:]]
    return [ranged(span, part) for span, part in zip(spans, words, strict=True)]


def ranged(span: Span, words: str) -> Range:
    """A span with its meaning; what it runs from and to in the world outside, where the words say so."""
    meaning = " ".join(words.strip(_EDGES).split())
    if span.percent and (span.first, span.last) == (0, 255):
        return Range(0, 255, meaning or "0 to 100 %", 0, 100, "%")
    return with_physical(Range(span.first, span.last, meaning or "no words"))


_UNIT = rf"(K|Hz|%|°|{any_of('degrees')})"
_AMOUNT = r"(\d{1,7}(?:\.\d{1,6})?)"
PHYSICAL = re.compile(rf"{_AMOUNT}\s*{_UNIT}?\s*(?:-|\.\.|~|→|{any_of('up_to')})\s*{_AMOUNT}\s*{_UNIT}(?![a-z])", re.I)
BRACED = re.compile(r"\s?\{(-?\d{1,9}(?:\.\d{1,9})?) to (-?\d{1,9}(?:\.\d{1,9})?)(?: (\S*))?\}$")


def with_physical(found: Range) -> Range:
    """The range with its low, high and unit, where its words say so."""
    if braced := BRACED.search(found.meaning):
        low, high, unit = float(braced[1]), float(braced[2]), braced[3] or ""
        return replace(found, meaning=found.meaning[: braced.start()], low=low, high=high, unit=unit)
    physical = PHYSICAL.search(found.meaning)
    if not physical:
        return found
    unit = {"k": "K", "hz": "Hz", "%": "%"}.get(physical[4].lower(), "degrees")
    return replace(found, low=float(physical[1]), high=float(physical[3]), unit=unit)
