"""What people may be called: names that are seen as they are, and that nobody takes for another
person's.

Which characters look alike is in the table of the package ``confusable_homoglyphs`` [Unicode
Technical Standard 39].
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable
from functools import cache

from fence.core.model.errors import EditError
from fence.core.model.text import check_text

LONGEST_NAME = 60
FENCE = "Fence"
"""What the log calls Fence itself."""
UNSEEN = frozenset("\u034f\u115f\u1160\u17b4\u17b5\u2800\u3164\uffa0")
"""Characters that count as letters, marks or signs and show nothing."""
UNSEEN_KINDS = frozenset({"Cc", "Cf", "Cn", "Co", "Cs", "Zl", "Zp"})
VARIANTS = (range(0xFE00, 0xFE10), range(0xE0100, 0xE01F0))


def check_name(name: str, others: Iterable[str] = ()) -> str:
    """Give a name back, its blanks tidied; ``EditError`` where it holds what is not seen, or where
    it looks like the name of one of ``others`` or of Fence itself."""
    name = " ".join(unicodedata.normalize("NFC", name).split())
    check_text("name", name, most=LONGEST_NAME)
    if any(map(_unseen, name)):
        raise EditError(
            "This name holds a character that is not seen, or that turns its letters round: type "
            "it anew."
        )
    if look_alike(name, FENCE):
        raise EditError("The log calls this program so: take another name.")
    for other in others:
        if look_alike(name, other):
            raise EditError(
                f"Somebody is called “{other}” already, and “{name}” looks like that: take "
                "another name."
            )
    return name


def _unseen(character: str) -> bool:
    kind, code = unicodedata.category(character), ord(character)
    return kind in UNSEEN_KINDS or character in UNSEEN or any(code in span for span in VARIANTS)


def look_alike(one: str, other: str) -> bool:
    """Whether two names may be taken for each other, as they stand or in small letters."""
    return bool(_shapes(one) & _shapes(other))


def _shapes(name: str) -> set[str]:
    tidy = " ".join(unicodedata.normalize("NFKC", name).split())
    return {_shape(tidy), _shape(tidy.casefold())}


def _shape(name: str) -> str:
    """The name with every character as the plainest one that looks like it."""
    table = _plainest()
    return "".join(table.get(character, character) for character in name).casefold()


@cache
def _plainest() -> dict[str, str]:
    """For each character the plainest of those that look like it: of ASCII where there is one."""
    from confusable_homoglyphs.confusables import confusables_data

    parent: dict[str, str] = {}

    def root(word: str) -> str:
        parent.setdefault(word, word)
        while parent[word] != word:
            parent[word] = parent[parent[word]]
            word = parent[word]
        return word

    for word, alike in confusables_data.items():
        for entry in alike:
            first, second = sorted((root(word), root(entry["c"])), key=_plainness)
            parent[second] = first
    return {word: root(word) for word in list(parent) if len(word) == 1}


def _plainness(word: str) -> tuple[bool, bool, str]:
    """ASCII before all else, and there several letters before one, since only a single one is
    looked up."""
    return not word.isascii(), len(word) == 1, word
