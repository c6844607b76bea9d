"""Lines of a text that is rewritten, and what its ways have in common."""

from __future__ import annotations

import re
from dataclasses import dataclass

from fence.core.charts.words import any_of

MOST_CELLS = 64
FEWEST = 3
"""Channels that a run of numbers must have to be one."""
CHANNEL = rf"(?:{any_of('channel', 'channels')}|dmx)"
LEVELS = re.compile(rf"\s*\d{{1,3}}\s*(?:[-–~→]|{any_of('up_to')})\s*\d{{1,3}}\b")


@dataclass(frozen=True, slots=True)
class Line:
    """A line of a rewritten text, and the lines of the text that it comes from, counted from 1."""

    text: str
    of: tuple[int, ...]


Lines = list[Line]


def blanks(text: str) -> list[str]:
    """The cells of a line, parted by tabs, else by two blanks or more."""
    parts = text.split("\t") if "\t" in text else re.split(r"\s{2,}", text.strip())
    return [part.strip() for part in parts][:MOST_CELLS]
