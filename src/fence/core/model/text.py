"""What a text, a number or an id may be, whoever sends it: a form, a file, the log.

The core's types ask here when they are built, so that no way in can bring what another way refuses.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from fence.core.model.errors import EditError, FenceError

LONGEST_TEXT = 1000
"""Characters that a label, name or note may have; beyond that it is surely a slip."""

LONGEST_ID = 120

_SLUG = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]*", re.ASCII)
_DIGITS = re.compile(r"[0-9]{1,15}", re.ASCII)


def check_text(
    what: str,
    text: str,
    *,
    required: bool = True,
    most: int = LONGEST_TEXT,
    error: type[FenceError] = EditError,
) -> str:
    """Give ``text`` back, or raise ``error`` if it is empty, too long, or holds what is no text.

    No text are control characters other than tab and line ends (a terminal would obey them), and
    halves of surrogate pairs (no file could hold them).
    """
    if required and not text.strip():
        raise error(f"A {what} is needed: it cannot be empty.")
    if len(text) > most:
        raise error(f"This {what} has {len(text)} characters. Use up to {most}.")
    if not text.isprintable() and any(_is_control(character) for character in text):
        raise error(f"This {what} holds a control character (such as NUL), which is not text.")
    return text


def _is_control(character: str) -> bool:
    code = ord(character)
    return (code < 32 and character not in "\t\n\r") or 127 <= code < 160 or 0xD800 <= code < 0xE000


TURNING = frozenset("\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Characters by which text is shown in another order than it was written in [Unicode Standard Annex
9]."""


def printable(text: str) -> str:
    """The text on one line, without control characters and those that turn it round: for a
    terminal, and the log."""
    if text.isprintable():
        return text
    shown = (
        " " if _is_control(one) or one in "\t\n\r" else one for one in text if one not in TURNING
    )
    return "".join(shown)


def check_id(what: str, text: str, *, error: type[FenceError] = EditError) -> str:
    """Give an id back if it can stand in a page address: letters, digits, ``.``, ``_`` and ``-``,
    up to 120."""
    if len(text) > LONGEST_ID or not _SLUG.fullmatch(text):
        shown = printable(text[:40])
        raise error(
            f"“{shown}” is not a {what}. Use letters, digits, “.”, “_” and “-”, "
            f"up to {LONGEST_ID}, a letter or digit first."
        )
    return text


def joined(words: Sequence[str], *, most: int = 4, shown: int = 3) -> str:
    """Words as a person lists them, such as ``a, b and c``; of more than ``most`` the first and how
    many more."""
    if len(words) > most:
        return f"{', '.join(words[:shown])} and {len(words) - shown} more"
    return " and ".join(filter(None, (", ".join(words[:-1]), *words[-1:])))


def counted(number: int, one: str, many: str = "") -> str:
    """A count with its word: ``1 slot``, ``3 slots``. ``many`` is the word for more, where that is
    no added s."""
    return f"{number} {agreeing(number, one, many)}"


def agreeing(number: int, one: str, many: str = "") -> str:
    """The word that goes with a count: ``slot`` or ``slots``, ``is`` or ``are``. ``many`` is the
    word for more than one, where that is no added s."""
    return one if number == 1 else many or one + "s"


def from_to(first: int, last: int) -> str:
    """Numbers from one to another, such as ``3 to 8``; a single one as it is."""
    return str(first) if first == last else f"{first} to {last}"


def slug(words: str, default: str) -> str:
    """An id made of words: lower case, dashes between them, ``default`` where nothing is left."""
    return re.sub(r"[^a-z0-9]+", "-", words.lower())[:80].strip("-") or default


def check_whole(
    what: str, number: int, least: int, most: int, *, error: type[FenceError] = EditError
) -> int:
    """Give a whole number back if it lies within ``least`` to ``most``, else raise ``error``."""
    if not least <= number <= most:
        shown = str(number) if -(10**18) < number < 10**18 else "A number of that size"
        raise error(f"{shown} is not a {what}. Use {least} to {most}.")
    return number


def check_finite(what: str, number: float, *, error: type[FenceError] = EditError) -> float:
    """Give a number back unless it is infinite or none at all, else raise ``error``."""
    if not math.isfinite(number):
        raise error(f"{number} is not a {what}. Use finite numbers.")
    return number


def whole_number(text: str) -> int | None:
    """The whole number that up to 15 ASCII digits say, blanks around them left aside; None for
    anything else."""
    tidy = text.strip()
    return int(tidy) if _DIGITS.fullmatch(tidy) else None
