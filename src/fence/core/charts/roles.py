"""What a column of a table holds, from the word over it, in seven languages."""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import StrEnum
from functools import lru_cache

from fence.core.charts.vocabulary import tidy_words
from fence.core.charts.words import UNUSED, every, heads


class Role(StrEnum):
    """What stands in a column."""

    CHANNEL = "channel number"
    NAME = "function"
    VALUE = "levels"
    FROM = "from"
    TO = "to"
    MEANING = "meaning"
    DEFAULT = "default"
    MODE = "mode"
    CELL = "cell"
    ASIDE = "leave out"


ORDER = (
    Role.DEFAULT, Role.ASIDE, Role.MODE, Role.CELL, Role.CHANNEL, Role.VALUE, Role.FROM, Role.TO, Role.NAME,
    Role.MEANING,
)  # fmt: skip
"""Where a head has words of several: ``DMX value`` holds levels, ``Channel function`` functions."""


@lru_cache(maxsize=1)
def _words() -> dict[str, Role]:
    return {word: Role(role) for word, role in heads().items()}


@lru_cache(maxsize=2048)
def roles_of(head: str) -> tuple[Role, ...]:
    """All roles that the words of a head speak of, most telling first; none where one of its words is no head."""
    words = tidy_words(head.replace("#", " no ")).split()
    if not words or len(words) > 5 or len(head) > 40:
        return ()
    if UNUSED.search(head):
        return ()
    if words in (["de"], ["a"]):
        return (Role.FROM,) if words == ["de"] else (Role.TO,)
    table = _words()
    found = [table.get(word) for word in words]
    glue = every("glue")
    if any(role is None and word not in glue for role, word in zip(found, words, strict=True)):
        return ()
    held = {role for role in found if role is not None}
    if not held:
        return (Role.VALUE,) if words == ["dmx"] else (Role.MEANING,) if "description" in words else ()
    if held & {Role.FROM, Role.TO} and len(held) > 1:
        held.discard(Role.VALUE)
    if Role.CHANNEL in held and Role.NAME in held:
        held.discard(Role.CHANNEL)
    return tuple(role for role in ORDER if role in held)


def role_of(head: str) -> Role | None:
    """What a column holds whose head this is; None where it is no head that is known."""
    return next(iter(roles_of(head)), None)


def is_head(cells: Sequence[str]) -> bool:
    """Whether cells can be the head of a table: at least two, all of them words that stand over columns."""
    filled = [cell for cell in cells if cell]
    return len(filled) >= 2 and all(roles_of(cell) for cell in filled) and not re.search(r"\d{3}", " ".join(filled))
