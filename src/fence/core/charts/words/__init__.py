"""Every word of a manual that the reader knows, one file a language; the rest of the reader holds
none.

A person's own words come before all of them.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass, field
from functools import lru_cache

from fence.core.charts.words import (
    czech,
    dutch,
    english,
    french,
    german,
    italian,
    polish,
    portuguese,
    spanish,
)
from fence.core.model.profile import Function

LANGUAGES = tuple(
    language.WORDS
    for language in (polish, czech, portuguese, dutch, italian, spanish, french, german, english)
)
"""English comes last: what it says of a word holds, whatever another language means by it."""

_WITHOUT_ACCENT = {"ł": "l", "ß": "ss"}


def parted(words: str) -> list[str]:
    """The phrases of a table, each with single blanks."""
    return [phrase for part in words.split(",") if (phrase := " ".join(part.split()))]


@lru_cache(maxsize=128)
def every(*kinds: str) -> tuple[str, ...]:
    """The words of some kinds in all languages, the longest first. ``kinds`` are fields of
    ``Language``."""
    found = {
        word for language in LANGUAGES for kind in kinds for word in parted(getattr(language, kind))
    }
    return tuple(sorted(found, key=lambda word: (-len(word), word)))


def _spellings(word: str) -> set[str]:
    """A word as it is written, and without its accents."""
    bare = (_WITHOUT_ACCENT.get(one) or unicodedata.normalize("NFD", one)[0] for one in word)
    return {word, "".join(bare)}


@dataclass(slots=True)
class _Node:
    """What may follow the letters so far; ``ends``: they are a word already."""

    ends: bool = False
    next: dict[str, _Node] = field(default_factory=dict)

    def pattern(self) -> str:
        ways = [
            (r"\s+" if letter == " " else re.escape(letter)) + node.pattern()
            for letter, node in sorted(self.next.items())
        ]
        if not ways:
            return ""
        one = ways[0] if len(ways) == 1 and not self.ends else f"(?:{'|'.join(ways)})"
        return f"{one}?" if self.ends else one


@lru_cache(maxsize=128)
def any_of(*kinds: str) -> str:
    """A pattern for the words of some kinds, in any language, longer ones first; accents may be
    left out.

    Words that begin alike share their beginning: so each letter of a text is looked at once.
    """
    root = _Node()
    for word in every(*kinds):
        for spelling in _spellings(word):
            node = root
            for letter in spelling:
                node = node.next.setdefault(letter, _Node())
            node.ends = True
    return root.pattern()


def functions() -> dict[str, Function]:
    """What names a function, as it stands in the tables, and the function that it names."""
    return {
        phrase: function
        for language in LANGUAGES
        for function, words in language.functions.items()
        for phrase in parted(words)
    }


def heads() -> dict[str, str]:
    """What stands over a column, word by word, and what such a column holds."""
    found: dict[str, str] = {}
    for language in LANGUAGES:
        for holds, words in language.heads.items():
            found |= dict.fromkeys(parted(words), holds)
    return found


def _in_order(kind: str, first: int) -> dict[str, int]:
    return {
        spelling: number
        for language in LANGUAGES
        for number, ways in enumerate(parted(getattr(language, kind)), first)
        for way in ways.split("/")
        for spelling in _spellings(way)
    }


NUMBERS = _in_order("numbers", 2)
"""Numbers that manuals write out before ``channels``."""
ORDINALS = _in_order("ordinals", 1)
"""Numbers that manuals write out before ``channel``."""
FILLERS = frozenset(every("fillers"))
"""Words that add nothing to those beside them."""
UNUSED = re.compile(rf"\b(?:{any_of('unused')})\b", re.I)
"""A channel that is there and does nothing."""


def names_of(*wanted: Function) -> list[str]:
    """The names of some functions in all languages, the longest first."""
    found = (name for name, function in functions().items() if function in wanted)
    return sorted(found, key=lambda name: (-len(name), name))
