"""Words of files and of the database that were others before."""

from __future__ import annotations

from enum import StrEnum

FORMER = {"sender": "transmitter", "air": "wireless"}
"""What was written before, and what is written now."""


class Renamed(StrEnum):
    """Words some of which were others before: those go on being read, and are never written."""

    @classmethod
    def _missing_(cls, value: object) -> Renamed | None:
        now = FORMER.get(value) if isinstance(value, str) else None
        return next((one for one in cls if one == now), None)


def formerly(word: str) -> str:
    """What a word was before, for numbers that were made of it and are kept."""
    return next((was for was, now in FORMER.items() if now == word), word)
