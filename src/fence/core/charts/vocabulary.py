"""What manuals call a function, and which function it is. Open to see; a show's own words can be added to it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

from fence.core.charts.words import FILLERS, every, functions
from fence.core.model.profile import Function

F = Function

COLOURS = {F.RED, F.GREEN, F.BLUE, F.WHITE, F.AMBER, F.UV, F.LIME, F.CYAN, F.MAGENTA, F.YELLOW}

FILTERS = {F.CYAN, F.MAGENTA, F.YELLOW}
"""Colours that are taken out of a lamp's light rather than added."""
EMITTERS = COLOURS - FILTERS

CLUSTERS: dict[str, tuple[Function, ...]] = {
    "rgb": (F.RED, F.GREEN, F.BLUE),
    "rgbw": (F.RED, F.GREEN, F.BLUE, F.WHITE),
    "rgba": (F.RED, F.GREEN, F.BLUE, F.AMBER),
    "rgbl": (F.RED, F.GREEN, F.BLUE, F.LIME),
    "rgbwa": (F.RED, F.GREEN, F.BLUE, F.WHITE, F.AMBER),
    "rgbaw": (F.RED, F.GREEN, F.BLUE, F.AMBER, F.WHITE),
    "rgbwauv": (F.RED, F.GREEN, F.BLUE, F.WHITE, F.AMBER, F.UV),
    "rgbawuv": (F.RED, F.GREEN, F.BLUE, F.AMBER, F.WHITE, F.UV),
    "cmy": (F.CYAN, F.MAGENTA, F.YELLOW),
}


def shipped_wordings() -> dict[Function, tuple[str, ...]]:
    """All wordings that ship with Fence, by the function that they mean, in every language."""
    found: dict[Function, list[str]] = {function: [] for function in Function}
    for word, function in _table(()).items():
        found[function].append(word)
    return {function: tuple(sorted(words)) for function, words in found.items() if words}


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a wording means. ``sure`` when the whole wording is known, not only a part of it."""

    function: Function
    sure: bool


def tidy_words(text: str) -> str:
    """Lower case, single blanks, no punctuation, no accents: the form in which wordings are compared."""
    plain = text.lower()
    if not plain.isascii():
        plain = plain.translate(_LIGATURES)
        plain = "".join(c for c in unicodedata.normalize("NFD", plain) if not unicodedata.combining(c))
    return " ".join(re.sub(r"[^a-z0-9]+", " ", plain).split())


_LIGATURES = str.maketrans({"ß": "ss", "ł": "l", "œ": "oe", "æ": "ae", "ø": "o", "°": " "})


SPEEDS = frozenset(map(tidy_words, every("speed")))
SPEED_OF = {
    F.PROGRAM: F.FUNCTION_SPEED, F.SOUND: F.FUNCTION_SPEED, F.COLOUR_WHEEL: F.FUNCTION_SPEED,
    F.FUNCTION_SPEED: F.FUNCTION_SPEED, F.PIXEL: F.FUNCTION_SPEED, F.SHUTTER: F.SHUTTER, F.FAN: F.FAN,
    F.GOBO: F.GOBO_ROTATION, F.GOBO_ROTATION: F.GOBO_ROTATION, F.PRISM: F.PRISM, F.DIMMER: F.OTHER,
}  # fmt: skip
"""Which function the speed of another one is; of all others it is a speed."""
MOST_WORDS = 24
"""Words of a wording that are looked at."""
LONGEST_PHRASE = 8
"""Words of the longest wording that is looked up."""


@lru_cache(maxsize=64)
def _table(extra: tuple[tuple[str, Function], ...]) -> dict[str, Function]:
    table = {tidy_words(word): function for word, function in functions().items()}
    table.update({tidy_words(word): function for word, function in extra})
    return table


def meaning_of(wording: str, extra: Iterable[tuple[str, Function]] = ()) -> Meaning | None:
    """The function that a wording means; None if no word of it is known.

    Sure is what is known as it stands, or without words that add nothing. Else the longest known phrase decides, then
    the later one; then the end of a compound word, and words that are nearly known. ``extra`` wordings come before the
    shipped ones. Single letters count only when they are the whole wording.
    """
    table, words = _table(tuple(extra)), tidy_words(wording).split()[:MOST_WORDS]
    phrase = " ".join(words)
    if phrase in table:
        return Meaning(table[phrase], sure=True)
    unnumbered = " ".join(word for word in words if not word.isdigit())
    if unnumbered in table and len(unnumbered) > 1:
        return Meaning(table[unnumbered], sure=True)
    telling = [word for word in words if word not in FILLERS]
    if telling and len(telling) < len(words) and (len(telling[0]) > 1 or len(telling) > 1):
        phrase = " ".join(telling)
        if phrase in table:
            return Meaning(table[phrase], sure=True)
    if telling and len(telling) < len(words) and not any(word in table for word in telling):
        near = _misspelt(telling)
        if near is not None:
            return near
    return _speed(table, words) or _parted(table, words) or _compound(table, words) or _misspelt(words)


def _speed(table: dict[str, Function], words: list[str]) -> Meaning | None:
    """A speed is that of what else the words speak of: of programs, of a strobe, of the head."""
    rest = [word for word in words if word not in SPEEDS]
    if len(rest) == len(words) or not rest:
        return None
    phrase = " ".join(word for word in rest if word not in FILLERS)
    whole = table.get(" ".join(rest), table.get(phrase))
    part = Meaning(whole, sure=True) if whole is not None else _parted(table, rest)
    return Meaning(SPEED_OF.get(part.function, F.SPEED), sure=whole is not None) if part is not None else None


def _parted(table: dict[str, Function], words: list[str]) -> Meaning | None:
    """What the longest known phrase in the words means, and the later one of two; sure where all the rest agrees."""
    for size in range(min(len(words), LONGEST_PHRASE), 0, -1):
        phrases = [" ".join(words[start : start + size]) for start in range(len(words) - size, -1, -1)]
        known = [table[phrase] for phrase in phrases if phrase in table and (len(phrase) > 1 or len(words) == 1)]
        if known:
            # "red light dimmer" is red: a colour's own dimmer is the colour
            telling = [function for function in known if function is not Function.DIMMER]
            return Meaning((telling or known)[0], sure=False)
    return None


def _compound(table: dict[str, Function], words: list[str]) -> Meaning | None:
    """What a word means that is made of several, as in German and Dutch: its end tells."""
    for word in words[:NAMES_WORDS]:
        for cut in range(3, len(word) - 3):
            if word[cut:] in table:
                return Meaning(table[word[cut:]], sure=False)
    return None


def _misspelt(words: list[str]) -> Meaning | None:
    if 1 < len(words) <= NAMES_WORDS and (whole := _near("".join(words))) is not None:
        return Meaning(whole, sure=False)
    near = [found for word in words[:NAMES_WORDS] if (found := _near(word)) is not None]
    return Meaning(near[0], sure=False) if near else None


NAMES_WORDS = 3
"""Words of a wording that are looked at once more for spelling: names of channels are short."""
LONG_WORD, SHORT_WORD, LONGEST_WORD = 8, 5, 24
"""From so many letters two may be wrong; from so many one may; longer ones are not looked at."""


def _shape(word: str) -> str:
    """A word with one letter for all that a scan takes for each other."""
    return word.translate(_ALIKE).replace("rn", "m").replace("vv", "w").replace("uu", "w")


_ALIKE = str.maketrans("1|i05c8v9", "lllosebuq")


def _with_letters_missing(word: str, most: int) -> set[str]:
    """The word, and what is left of it without up to ``most`` letters."""
    found = {word}
    for _ in range(most):
        found |= {held[:place] + held[place + 1 :] for held in found for place in range(len(held))}
    return found


@lru_cache(maxsize=1)
def _shapes() -> dict[str, str]:
    """Known words by how a scan sees them."""
    return {_shape(word): word for word in sorted(_table(()), reverse=True) if " " not in word and len(word) >= 3}


@lru_cache(maxsize=1)
def _turned() -> dict[str, str]:
    """Known words with two neighbouring letters in the wrong order."""
    known = sorted((word for word in _table(()) if " " not in word and len(word) >= 4), reverse=True)
    return {word[:n] + word[n + 1] + word[n] + word[n + 2 :]: word for word in known for n in range(len(word) - 1)}


@lru_cache(maxsize=1)
def _nearby() -> dict[tuple[str, str], str]:
    """Known words by their first letter and what is left of them with letters missing: alike words meet there."""
    known = sorted((word for word in _table(()) if " " not in word and len(word) >= SHORT_WORD), reverse=True)
    return {
        (word[0], left): word
        for word in known
        for left in _with_letters_missing(word, 2 if len(word) >= LONG_WORD else 1)
    }


@lru_cache(maxsize=4096)
def _near(word: str) -> Function | None:
    """The function of a word that is nearly a known one: misspelled, or letters taken for others by a scan."""
    if not 3 <= len(word) <= LONGEST_WORD:
        return None
    like = _shapes().get(_shape(word)) or _turned().get(word)
    if like is not None:
        return _table(())[like]
    if len(word) < SHORT_WORD:
        return None
    most = 2 if len(word) >= LONG_WORD else 1
    for left in sorted(_with_letters_missing(word, most), key=lambda held: (-len(held), held)):
        like = _nearby().get((word[0], left))
        if like is not None and abs(len(like) - len(word)) <= most:
            return _table(())[like]
    return None
