"""Markup as a browser reads it: blanks that are not seen are not there."""

from __future__ import annotations

import re
from functools import lru_cache

BLOCKS = frozenset(
    "html head body main nav aside header footer section article div p ul ol li dl dt dd "
    "table caption thead tbody tr td th form fieldset legend details summary figure figcaption "
    "h1 h2 h3 h4 hr br select option optgroup datalist button dialog title meta link "
    "svg g path rect circle line polygon text defs pattern template".split()
)
"""Elements at whose edges no blank is seen."""
PIECE = re.compile(
    r"(?P<raw><(?P<name>script|style|pre|textarea)\b.*?</(?P=name)>)"
    r"|(?P<tag><(?:!doctype|/?[a-z][\w-]*)(?:\"[^\"]*\"|'[^']*'|[^\"'>])*>)",
    re.DOTALL | re.IGNORECASE,
)
NAME = re.compile(r"</?([a-z][\w-]*)", re.IGNORECASE)


def as_read(markup: str) -> str:
    """Markup with one blank where several count as one, and none where none is seen.

    The words of ``pre`` and ``textarea`` and of scripts stay as they are.
    """
    out: list[str] = []
    place = 0
    after_block = True
    for piece in PIECE.finditer(markup):
        is_block = piece["raw"] is None and _is_block(piece["tag"])
        out.append(_words(markup[place : piece.start()], after_block, is_block))
        out.append(piece["raw"] or _tag(piece["tag"]))
        after_block = is_block
        place = piece.end()
    out.append(_words(markup[place:], after_block, True))
    return "".join(out)


@lru_cache(maxsize=10_000)
def _is_block(tag: str) -> bool:
    name = NAME.match(tag)
    return name is None or name[1].lower() in BLOCKS or 'type="hidden"' in tag


@lru_cache(maxsize=10_000)
def _tag(tag: str) -> str:
    return re.sub(r'(?<=")\s+(?=")|\s+(?=/?>$)', "", re.sub(r"\s+", " ", tag))


def _words(words: str, after_block: bool, before_block: bool) -> str:
    words = re.sub(r"\s+", " ", words)
    if after_block:
        words = words.lstrip(" ")
    return words.rstrip(" ") if before_block else words
