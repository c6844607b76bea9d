"""From the words of a channel to the channel: function, cell, byte, default; and spans that speak of several."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from fence.core.charts.vocabulary import CLUSTERS, COLOURS, Meaning, meaning_of, tidy_words
from fence.core.charts.words import UNUSED, any_of, every
from fence.core.model.profile import Byte, Channel, Function, Range

WITHOUT_CELL = {Function.RESET, Function.PROGRAM, Function.SOUND, Function.FUNCTION_SPEED, Function.OUTPUT}
"""Functions that belong to the whole fixture, also where they stand among those of a cell."""
FUNCTIONS = {tidy_words(function): function for function in Function}
LONGEST_NAME = 60
LONGEST_WORDING = 160
"""Characters of a name that are looked at."""

_CELLS = any_of("cell")
_LIKE = any_of("like")
_FINE = any_of("fine")
_COARSE = any_of("coarse")
_UP_TO = any_of("up_to")
_JOINED = any_of("joints")
_BITS = any_of("bits")
DEFAULT = re.compile(
    rf"[\[(]?\b(?:{any_of('default')})\b\s*(?:(?:{any_of('value')})\s*)?"
    r"[:=]?\s*(\d{1,3})(?:\s*(%)|\b)[\])]?",
    re.I,
)
HIGHLIGHT = re.compile(rf"\b(?:{any_of('highlight')})\s*[:=]?\s*(\d{{1,3}})\b", re.I)
NAMED = re.compile(r"\[([a-z/ ]+)\]", re.I)
FINE = re.compile(
    rf"\(?\b({_FINE}|16\s*-?\s*(?:{_BITS})|2/2|(?:{any_of('low')})$)(?![^\W_])\)?",
    re.I,
)
COARSE = re.compile(
    rf"\(?\b({_COARSE}|8\s*-?\s*(?:{_BITS})|1/2|(?:{any_of('high')})$)(?![^\W_])\)?",
    re.I,
)
CELL = re.compile(rf"\(?\b(?:{_CELLS})\s*(?:(?:{any_of('number_sign')})\.?|#)?\s*(\d{{1,3}})\b\)?", re.I)
NUMBERED_CELL = re.compile(rf"\(?\b(\d{{1,3}})(?:st|nd|rd|th|\.)?\s+(?:{_CELLS})\b\)?", re.I)
CELLS = re.compile(
    rf"\b(?:{_CELLS})s?n?\s*#?(\d{{1,3}})\s*(?:-|~|\.\.|…|→|&|{_UP_TO}|{_JOINED})\s*#?(\d{{1,3}})\b",
    re.I,
)
LETTER_CELL = re.compile(r"^([rgbwa]|uv)[\s_.-]?(\d{1,3})$", re.I)
CELL_LETTER = re.compile(r"^(\d{1,3})[\s_.-]?([rgbwa])$", re.I)
TAIL_NUMBER = re.compile(r"^(.*[^\W\d])\s*[#(]?(\d{1,3})\)?$", re.I)
NUMBERED_LAMP = re.compile(rf"(?:{any_of('lamp')})\s*#?(\d{{1,2}})", re.I)
"""One of several lamps that a device dims."""
SUM = re.compile(r"^([rgbwa])\d{1,3}(?:\s*\+\s*\1\d{1,3})+$", re.I)
"""Several cells of one colour together: ``R1+R2``."""
LIKE = re.compile(rf"(?:^|[\s,(])(?:{_LIKE})\b\D{{0,24}}?(\d{{1,3}})\s*(?:-|~|→|{_UP_TO})\s*(\d{{1,3}})", re.I)
AS_IN = re.compile(
    rf"(?:{_LIKE})\b(?:\s+\w+){{0,2}}\s+(\d{{1,3}})\s*-?\s*(?:{any_of('channel', 'channels')})"
    rf"(?:{any_of('mode')})?(?![^\W_])",
    re.I,
)
"""Like the channels of another mode, which is named by its count: ``as in 9-channel mode``."""
SAME = re.compile(rf"(?:^|[\s,(])(?:{_LIKE})\b", re.I)
BOTH_BYTES = re.compile(
    rf"16\s*-?\s*(?:{_BITS})|2\s*(?:{any_of('bytes')})|{any_of('both_bytes')}|1/2\W{{1,5}}2/2|65535|"
    rf"(?:{_COARSE}|{any_of('high')})\W{{1,5}}(?:(?:{_JOINED})\W{{1,5}})?(?:{_FINE}|{any_of('low')})",
    re.I,
)
_JOINTS = re.compile(rf"\s*(?:[,;/+&]|\s-\s|\b(?:{_JOINED})\b)\s*", re.I)
_BLANK_JOINTS = re.compile(r"[\s,;/+&-]+")
_EDGES = " -:,;()[]|\t.=*/_'\""


GOES_ON = {
    (before, word): function
    for before, function in (
        (Function.GOBO, Function.GOBO_ROTATION),
        (Function.GOBO_ROTATION, Function.GOBO_ROTATION),
        (Function.PRISM, Function.PRISM),
        (Function.PROGRAM, Function.FUNCTION_SPEED),
        (Function.SOUND, Function.FUNCTION_SPEED),
    )
    for word in map(tidy_words, every("speed" if function is Function.FUNCTION_SPEED else "rotation"))
}
"""Bare words that speak of the channel before: a speed behind programs, a rotation behind a gobo."""


@dataclass(frozen=True, slots=True)
class Named:
    """A channel, and what to doubt about it: nothing where its words are known."""

    channel: Channel
    doubt: str = ""


class Namer:
    """Knows what words mean, those of the person first."""

    def __init__(self, words: tuple[tuple[str, Function], ...]) -> None:
        self.words = words

    def means(self, wording: str) -> Meaning | None:
        """The function that a wording means."""
        return meaning_of(wording, self.words)

    def knows(self, wording: str) -> bool:
        """Whether a wording speaks of a function at all; bytes, cells and defaults aside."""
        named = self.channel(wording)
        return named.channel.function is not Function.OTHER or not named.doubt

    def channel(
        self, name: str, ranges: tuple[Range, ...] = (), byte: Byte | None = None, before: Channel | None = None
    ) -> Named:
        """The channel that words name. ``before`` is the one in front of it: a bare "fine" is the fine byte of that."""
        name = name[:LONGEST_WORDING]
        default, highlight, given = DEFAULT.search(name), HIGHLIGHT.search(name), NAMED.search(name)
        function = FUNCTIONS.get(tidy_words(given[1])) if given else None
        wording = HIGHLIGHT.sub(" ", DEFAULT.sub(" ", name))
        if function is not None:
            wording = NAMED.sub(" ", wording)
        fine, coarse = FINE.search(wording), COARSE.search(wording)
        if byte is None:
            byte = Byte.FINE if fine else Byte.COARSE if coarse else Byte.WHOLE
        bare = COARSE.sub(" ", FINE.sub(" ", wording))
        cell, bare = self.cell(bare, numbered=function is None)
        bare = bare.strip(_EDGES)
        if not bare and fine and before is not None:
            fresh = replace(before, byte=Byte.FINE, ranges=ranges, default=_level(default) or 0, highlight=None)
            return Named(fresh)
        meaning = Meaning(function, sure=True) if function else meaning_of(bare, self.words)
        if meaning is None and (numbered := NUMBERED_LAMP.fullmatch(bare)):
            cell, meaning = int(numbered[1]), Meaning(Function.DIMMER, sure=False)
        if before is not None and (going := GOES_ON.get((before.function, tidy_words(bare)))) is not None:
            meaning = Meaning(going, sure=False)
        found = meaning.function if meaning else Function.OTHER
        kept = "" if tidy_words(bare) == tidy_words(found) else " ".join(bare.lower().split())[:LONGEST_NAME].strip()
        channel = Channel(found, kept, cell, byte, _level(default) or 0, _level(highlight), ranges)
        if meaning is None and UNUSED.search(bare):
            return Named(channel)
        if meaning is None:
            return Named(channel, f"what “{bare[:40]}” does is not known" if bare else "it has no name")
        if not meaning.sure:
            return Named(channel, f"taken as {found}")
        return Named(channel)

    def cell(self, wording: str, *, numbered: bool) -> tuple[int | None, str]:
        """The cell that a wording names, and the wording without it; ``numbered``: also by a number beside a colour."""
        if found := SUM.match(wording.strip()):
            return None, found[1]
        if found := CELL.search(wording):
            return int(found[1]), CELL.sub(" ", wording, count=1)
        if found := NUMBERED_CELL.search(wording):
            return int(found[1]), NUMBERED_CELL.sub(" ", wording, count=1)
        tidy = wording.strip(_EDGES)
        if numbered and (found := LETTER_CELL.match(tidy)):
            return int(found[2]), found[1]
        if numbered and (found := CELL_LETTER.match(tidy)):
            return int(found[1]), found[2]
        if numbered and (found := TAIL_NUMBER.match(tidy)):
            known = meaning_of(found[1], self.words)
            if known and known.function in COLOURS:
                return int(found[2]), found[1]
        return None, wording

    def several(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """The ``count`` channels that a span of numbers with these words speaks of, and what to doubt about them.

        ``before`` are the channels of the mode so far, for those that are like earlier ones. None where nothing says.
        """
        for reader in (self._like, self._same, self._clusters, self._pair, self._listed, self._unused, self._counted):
            made = reader(words, count, before)
            if made is not None:
                return made
        return None

    def _like(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """Like channels that the words name by number: ``as 5 to 8 for heads 2 to 4``."""
        found = LIKE.search(words)
        if not found or not SAME.match(" " + words.strip()):
            return None
        if re.search(rf"\b(?:{_CELLS})s?n?\W*$", words[found.start() : found.start(1)], re.I):
            return None
        low, high = int(found[1]), int(found[2])
        pattern = before[low - 1 : high]
        if not 1 <= low <= high <= len(before) or count % len(pattern):
            return None
        cells = CELLS.search(words[found.end() :])
        return _again(pattern, count, int(cells[1]) if cells else None), ""

    def _same(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """Like the group before, for cells that the words count: ``same for pixels 4 to 8``."""
        if not SAME.match(" " + words.strip()):
            return None
        cells = CELLS.search(words) or CELL.search(words)
        if cells is None:
            return None
        low = int(cells[1])
        high = int(cells[2]) if cells.re is CELLS else low
        many = high - low + 1
        if many < 1 or count % many or count // many > len(before):
            return None
        return _again(before[len(before) - count // many :], count, low), ""

    def _clusters(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """Colours that are written as one, or one by one, once or for each cell: ``pixel 1 to 8 RGB``."""
        cells = CELLS.search(words)
        single = None if cells else CELL.search(words)
        bare = words
        for found in (cells, single):
            if found:
                bare = bare.replace(found[0], " ", 1)
        bare = re.sub(r"\([^)]*\)", lambda m: m[0] if self._cluster_in(m[0], count) else " ", bare)
        if self._cluster_in(bare, count) is None and ":" in bare:
            bare = bare.split(":", 1)[1]
        cluster = self._cluster_in(bare, count)
        if cluster is None:
            return None
        size = len(cluster)
        if cells and int(cells[2]) - int(cells[1]) + 1 != count // size:
            return None
        first = int(cells[1]) if cells else int(single[1]) if single else None
        if first is None and count == size and (tail := re.search(r"[^\W\d]\s*#?(\d{1,3})\s*$", bare.strip(_EDGES))):
            first = int(tail[1])
        if first is None:
            first = 1 if count > size else None
        made = [
            Channel(function, cell=None if first is None else first + step)
            for step in range(count // size)
            for function in cluster
        ]
        return made, ""

    def _cluster_in(self, words: str, count: int) -> tuple[Function, ...] | None:
        found = [CLUSTERS[word] for word in re.findall(r"[a-z]+", words.lower()) if word in CLUSTERS]
        found += [
            CLUSTERS[w]
            for w in re.findall(r"[a-z]+", re.sub(r"(?<=\b\w)[\s/,-]+(?=\w\b)", "", words.lower()))
            if w in CLUSTERS
        ]
        fits = [cluster for cluster in found if count % len(cluster) == 0]
        if fits:
            return fits[0]
        for joints in (_JOINTS, _BLANK_JOINTS):
            parts = [part.strip(_EDGES) for part in joints.split(words) if part.strip(_EDGES)]
            meanings = [meaning_of(part, self.words) for part in parts if tidy_words(part) not in _GLUE]
            functions = tuple(m.function for m in meanings if m and m.sure and m.function in COLOURS)
            if len(functions) == len(meanings) and len(functions) > 1 and count % len(functions) == 0:
                return functions
        return None

    def _pair(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """Two numbers and one function: its coarse and its fine byte."""
        if count != 2 and not (BOTH_BYTES.search(words) and count % 2 == 0 and count <= 8):
            return None
        bare = BOTH_BYTES.sub(" ", words)
        said = bare != words
        if said and count > 2:
            parts = [part for part in _JOINTS.split(bare) if part.strip(_EDGES)]
            if len(parts) != count // 2:
                return None
        else:
            parts = [bare]
            two = [part for part in _JOINTS.split(bare) if part.strip(_EDGES)]
            if not said and len(two) == 2 and all((m := self.means(part)) and m.sure for part in two):
                return None
        made, doubts = [], []
        for part in parts:
            named = self.channel(COARSE.sub(" ", FINE.sub(" ", part)), byte=Byte.COARSE)
            if UNUSED.search(part) and not said:
                return None
            made += [named.channel, replace(named.channel, byte=Byte.FINE, default=0)]
            doubts.append(named.doubt)
        doubt = next((doubt for doubt in doubts if doubt), "")
        return made, doubt or ("" if said else "taken as the coarse and the fine byte of one function")

    def _listed(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """As many names as numbers."""
        parts = [part for part in _JOINTS.split(words) if part.strip(_EDGES)]
        if len(parts) != count:
            return None
        named = [self.channel(part) for part in parts]
        if not all(self.knows(part) for part in parts):
            return None
        return [one.channel for one in named], next((one.doubt for one in named if one.doubt), "")

    def _unused(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        if not UNUSED.search(words):
            return None
        return [self.channel(words).channel] * count, ""

    def _counted(self, words: str, count: int, before: Sequence[Channel]) -> tuple[list[Channel], str] | None:
        """One function as often as there are cells: ``dimmers 1 to 6``."""
        span = re.search(rf"(\d{{1,3}})\s*(?:-|~|\.\.|{_UP_TO})\s*(\d{{1,3}})", words, re.I)
        bare = words.replace(span[0], " ", 1) if span else words
        _, bare = self.cell(bare, numbered=False)
        bare = re.sub(rf"\b(?:{_CELLS})s?\b", " ", bare, flags=re.I)
        named = self.channel(re.sub(r"(?<=\w{3})s\b", "", bare.strip(_EDGES)) or words)
        fits = span is not None and int(span[2]) - int(span[1]) + 1 == count
        first = int(span[1]) if span and fits else 1
        made = [replace(named.channel, cell=first + step) for step in range(count)]
        sure = fits and not named.doubt
        return made, "" if sure else named.doubt or f"taken as {count} channels of one kind"


_GLUE = {"", *every("joints", "glue", "of_pages", "article"), *every("fillers")}


def _again(pattern: Sequence[Channel], count: int, cell: int | None) -> list[Channel]:
    """Channels like those of a pattern, for the cells from ``cell`` on, or those that come next."""
    first = cell if cell is not None else (pattern[0].cell or 1) + 1
    return [
        replace(
            pattern[step % len(pattern)], cell=first + step // len(pattern), ranges=pattern[step % len(pattern)].ranges
        )
        for step in range(count)
    ]


def _level(found: re.Match[str] | None) -> int | None:
    if found is None:
        return None
    percent = found.re is DEFAULT and found[2]
    return min(255, math.ceil(255 * int(found[1]) / 100) if percent else int(found[1]))
