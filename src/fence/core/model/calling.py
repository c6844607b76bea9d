"""Fixtures as people call them, one by one or many at once: ``101-112``, ``Fern 1-6``, ``all at
Canopy Walk``."""

from __future__ import annotations

import re
from collections.abc import Sequence

from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.text import whole_number

ACCEPTED = (
    "Accepted are labels and numbers with commas between them, and many at once: 101-112, "
    "101 thru 112, Fern 1-6, all at a position."
)
_PIECES = re.compile(r"\s*[,;\n]\s*")
_AT = re.compile(r"(?:all\s+)?(?:at|on|of)\s+(?P<place>.+)|all\s+(?P<only>.+)", re.IGNORECASE)
_RANGE = re.compile(
    r"(?P<stem>.*?)(?P<first>\d{1,9})\s*(?:-|–|\.\.|\bthru\b|\bthrough\b|\bto\b)\s*"
    r"(?P<again>\D*?)(?P<last>\d{1,9})",
    re.IGNORECASE,
)


def called(show: Show, words: str) -> list[int]:
    """The ids of the fixtures that the words call, each once, in the order in which they are said.

    A range that runs backwards gives them backwards; those at a position come in rig order.
    ``EditError`` where a piece calls no fixture or a label several, with what is accepted.
    """
    ids: dict[int, None] = {}
    for piece in filter(None, _PIECES.split(words.strip())):
        ids.update(dict.fromkeys(fixture.id for fixture in _piece(show, piece)))
    return list(ids)


def _piece(show: Show, piece: str) -> Sequence[Fixture]:
    name = piece.casefold()
    number = whole_number(piece)
    found = [
        fixture
        for fixture in show.fixtures
        if fixture.label.casefold() == name or number == fixture.number is not None
    ]
    if len(found) > 1:
        raise EditError(f"Several fixtures are called “{piece[:60]}”. Use their numbers.")
    many = found or _run(show, piece) or _at(show, piece)
    if not many:
        raise EditError(f"No fixture is called “{piece[:60]}”. {ACCEPTED}")
    return many


def _run(show: Show, piece: str) -> list[Fixture]:
    """Those of a range of numbers, or of labels that only differ in the number at their end."""
    found = _RANGE.fullmatch(piece)
    if found is None:
        return []
    stem, again = found["stem"].strip().casefold(), found["again"].strip().casefold()
    if again and again != stem:
        return []
    first, last = int(found["first"]), int(found["last"])
    low, high = sorted((first, last))
    counted = [
        (number, fixture)
        for fixture in show.fixtures
        if (number := _number_of(fixture, stem)) is not None and low <= number <= high
    ]
    counted.sort(key=lambda pair: pair[0], reverse=first > last)
    return [fixture for _, fixture in counted]


def _number_of(fixture: Fixture, stem: str) -> int | None:
    """The number that a fixture has; with a stem that at the end of its label behind the stem."""
    if not stem:
        return fixture.number
    label = fixture.label.casefold()
    return whole_number(label[len(stem) :].strip()) if label.startswith(stem) else None


def _at(show: Show, piece: str) -> list[Fixture]:
    """All that hang at a position."""
    found = _AT.fullmatch(piece)
    place = (found["place"] or found["only"] if found else piece).strip().casefold()
    return [fixture for fixture in show.fixtures if fixture.position.casefold() == place]
