"""Lines that say what follows: the name of a mode and its count, the cell that is spoken of, a page that goes on."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from fence.core.charts.words import NUMBERS, any_of, every

LONGEST_NAME = 60

_CHANNELS = any_of("channel", "channels")
_MODES = any_of("mode")
_FREE = any_of("mode_free")
_SAID = any_of("mode", "mode_said")
_BEFORE = any_of("before_channels")
COUNT = re.compile(
    rf"(?<![\w.])(?P<n>\d{{1,3}}|{'|'.join(NUMBERS)})\s*-?\s*(?:(?:{_BEFORE})[\s-]*){{0,2}}(?:{_CHANNELS})(?![^\W_])",
    re.I,
)
"""``6CH``, ``9-channel``, ``ten channels``, ``14 DMX channels``."""
_COUNTABLE = re.compile("|".join(sorted({word[:2] for word in every("channel", "channels", "footprint")})), re.I)
"""How the words for channels begin."""
COUNT_BEHIND = re.compile(
    rf"\b(?:{any_of('channels', 'footprint')})\s*(?:(?:{_BEFORE})\s*)?"
    r"[:=]\s*(\d{1,3})\s*\W*$",
    re.I,
)
"""``DMX channels: 6``."""
MODE = re.compile(rf"\b(?:{any_of('mode', 'mode_numbered', 'mode_counted')})\b", re.I)
NAMED_MODE = re.compile(
    rf"^(?:(?:{_FREE})\s*[\w.+-]{{1,16}}\s*(?:\(.{{0,40}}\))?\s*:?|(?:{_SAID})\s*[:=]\s*\S.{{0,60}}|"
    rf"(?:{any_of('mode', 'mode_numbered')})\s*#?(?:\d{{1,2}}|[A-H]|[IVX]{{1,4}})\s*(?:[-:(,]\s*\S.{{0,60}})?|"
    rf"[^\W\d][\w+/-]{{1,20}}(?: [\w+/-]{{1,12}})?\s+(?:{_MODES})\s*:?)$",
    re.I,
)
OWN_MODE = "Mode"
"""How Fence itself writes that a mode begins."""
EXACT_MODE = re.compile(rf"^{OWN_MODE}:\s*(\S.*)$", re.I)
CONTINUED = re.compile(
    rf"\b(?:{any_of('continued')})(?:\W|$)",
    re.I,
)
TOTAL = re.compile(rf"^[\W_]*(?:{any_of('total')})\b.{{0,40}}$", re.I)
"""How many channels there were, behind them."""
_CELL_ALONE = re.compile(rf"^[\W_]*(?:{any_of('cell')})\s*#?\s*(\d{{1,3}})[\W_]*$", re.I)
PAGE = re.compile(
    rf"^[\W_]*(?:{any_of('page')})?[\s.]*\d{{1,4}}[\W_]*$|"
    rf"\b(?:{any_of('page')})\s+\d{{1,4}}(?:\s+(?:{any_of('of_pages')})\s+\d{{1,4}})?\W*$",
    re.I,
)
_EDGES = re.compile(r"^[\[(<{=#*_~:\-\s]+|[\])>}=#*_~:\-\s]+$")


@dataclass(frozen=True, slots=True)
class Heading:
    """The name of a mode, how many channels it says that it has, and whether it says that it is one."""

    name: str
    declared: int | None
    firm: bool


@lru_cache(maxsize=512)
def counts_in(text: str) -> tuple[int, ...]:
    """The numbers of channels that a text speaks of: ``4 channels``."""
    if not _COUNTABLE.search(text):
        return ()
    found = [NUMBERS.get(m["n"].lower()) or int(m["n"]) for m in COUNT.finditer(text) if m["n"].lower() != "0"]
    if not found and (behind := COUNT_BEHIND.search(text)):
        found = [int(behind[1])]
    return tuple(count for count in found if 1 <= count <= 512)


def heading_of(text: str) -> Heading | None:
    """The mode that a line announces; None where it announces none."""
    words = " ".join(text.split())
    if exact := EXACT_MODE.match(words):
        counts = counts_in(exact[1])
        return Heading(exact[1][:LONGEST_NAME], counts[0] if len(counts) == 1 else None, True)
    counts = counts_in(words)
    named = NAMED_MODE.match(words) is not None
    if len(counts) == 1:
        return Heading(_name(words, counts[0]), counts[0], named or MODE.search(words) is not None)
    return Heading(_name(words, None), None, True) if named and not counts else None


def _name(words: str, count: int | None) -> str:
    name = _EDGES.sub("", words)
    if "(" in name and name.count("(") > name.count(")"):
        name += ")"
    sentence = words.endswith((".", ";", ",")) or ". " in words or len(name) > LONGEST_NAME
    return f"{count} channel" if sentence and count is not None else name[:LONGEST_NAME].strip()


def mode_cell(text: str) -> tuple[str, int | None] | None:
    """The mode that stands over a column: its name, and how many channels it says that it has."""
    words = " ".join(text.split())
    if len(words) > 30 or not words:
        return None
    counts = counts_in(words)
    if len(counts) == 1 and len(words.split()) <= 5:
        return words.strip("()[] :"), counts[0]
    if re.fullmatch(rf"(?:{any_of('mode', 'mode_short')})\s*#?(?:\d{{1,2}}|[A-H])", words, re.I):
        return words, None
    return None


def cell_alone(text: str) -> int | None:
    """The cell that a line of its own names: ``Head 1``."""
    found = _CELL_ALONE.match(text)
    return int(found[1]) if found else None
