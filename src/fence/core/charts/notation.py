"""One way of writing for characters that manuals write in many: dashes, blanks, arrows, bullets, footnotes.

Every character stays in its place, since in a table of aligned blanks the place says which column a word belongs to.
"""

from __future__ import annotations

import re

from fence.core.charts.words import names_of
from fence.core.model.profile import Function

LONGEST_LINE = 300
"""Characters of a line that are read; no row of a table is longer."""
MOST_TABS = 16

_CHARACTERS = str.maketrans(
    dict.fromkeys("‐‑‒–—−―", "-")
    | dict.fromkeys("～∼", "~")
    | dict.fromkeys("→↔⇒➔➜⟶", "→")
    | dict.fromkeys("“”„«»", '"')
    | dict.fromkeys("‘’`´", "'")
    | dict.fromkeys("¹²³⁴⁵⁶⁷⁸⁹⁾", " ")
)
_LETTERS = str.maketrans(
    {0xFB00: "ff", 0xFB01: "fi", 0xFB02: "fl", 0xFB03: "ffi", 0xFB04: "ffl", 0xFB05: "st", 0xFB06: "st"}
)
"""Letters that a page sets as one."""
_TINT = "|".join(re.escape(name) for name in names_of(Function.GREEN, Function.MAGENTA))
_TINTS = re.compile(rf"(?:\+\s?/\s?-|±)\s?(?:{_TINT})(?:\s?/\s?(?:{_TINT}))?(?!\w)", re.I)
"""A correction towards green and away from it."""
_BLANKS = re.compile(r"[^\S\t]|[\x00-\x08\x0a-\x1f\x7f-\x9f\ud800-\udfff\ufeff\u200b]")
_FOOTNOTE = re.compile(r"^\s*(?:[¹²³⁴⁵⁶⁷⁸⁹]|\*+\))")
FOOTNOTE = "†"
"""Stands at the front of a line that is a note to others."""
_LEADING = re.compile(r"^(\s*)([•●▪◦‣∙·*>#]+)(?=\s)")
_LONG_RUN = re.compile(r"\t{2,}")


def plain(row: str) -> str:
    """The line with one kind of dash, arrow, quote and blank, bullets at its front taken off; as long as it was."""
    if "\ufb00" <= max(row, default="") <= "\ufb06":
        row = row.translate(_LETTERS)
    line = _BLANKS.sub(" ", row[:LONGEST_LINE].translate(_CHARACTERS).replace("<->", " → "))
    if _FOOTNOTE.match(row):
        line = f"{FOOTNOTE}{line[1:]}"
    line = _TINTS.sub(lambda found: "tint".ljust(len(found[0])), line)
    line = line.replace("***", "   ").replace("**", "  ")
    line = _LONG_RUN.sub(lambda found: "\t" * min(len(found[0]), MOST_TABS), line)
    return _LEADING.sub(lambda found: found[1] + " " * len(found[2]), line)


LOOKALIKES = str.maketrans("OoQIl|SsB", "000111558")
"""Letters that a scan takes for digits, and the digits that they are."""


def as_number(word: str) -> int | None:
    """A whole number, also where a scan took letters for some of its digits. None where it is none."""
    if word.isascii() and word.isdigit():
        return int(word)
    read = word.translate(LOOKALIKES)
    scanned = any(character.isdigit() for character in word) and len(word) <= 3
    return int(read) if scanned and read.isascii() and read.isdigit() else None
