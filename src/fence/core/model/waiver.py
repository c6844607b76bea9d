"""A finding that people have looked at and let stand, with the reason."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from fence.core.model.record import NOBODY, Witness
from fence.core.model.text import check_text

MOST_WAIVERS = 500
LONGEST_REASON = 500


@dataclass(frozen=True, slots=True)
class Waiver:
    """That one finding of a ``rule`` is let stand, and why.

    ``key`` says where it is, ``said`` what it said: once either is another, the finding is there
    again. So it is once the day ``until`` is over, where there is one.
    """

    rule: str
    key: str
    said: str
    reason: str
    by: Witness = NOBODY
    until: date | None = None

    def __post_init__(self) -> None:
        check_text("rule", self.rule, most=80)
        check_text("place of a finding", self.key, most=200_000)
        check_text("words of a finding", self.said, most=20_000)
        check_text("reason", self.reason, most=LONGEST_REASON)
