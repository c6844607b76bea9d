"""Letting a finding stand for a reason, and taking that back."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from fence.core.checks.finding import Finding
from fence.core.model.errors import EditError
from fence.core.model.record import NOBODY, Witness
from fence.core.model.show import Show
from fence.core.model.waiver import Waiver


def waive(
    show: Show, finding: Finding, reason: str, by: Witness = NOBODY, until: date | None = None
) -> Show:
    """Let a finding stand, with the reason, up to and with a day. One that was let stand before
    gets the new ones."""
    made = Waiver(finding.rule, finding.key, finding.message, " ".join(reason.split()), by, until)
    return replace(
        show, waivers=(*(held for held in show.waivers if held.key != finding.key), made)
    )


def end_waivers(show: Show, today: date) -> Show:
    """Let nothing stand whose day is over; the show itself where there is no such waiver."""
    left = tuple(held for held in show.waivers if held.until is None or held.until >= today)
    return show if len(left) == len(show.waivers) else replace(show, waivers=left)


def unwaive(show: Show, key: str) -> Show:
    """Take back that a finding is let stand; ``EditError`` where it is not."""
    left = tuple(held for held in show.waivers if held.key != key)
    if len(left) == len(show.waivers):
        raise EditError("That finding is not accepted: load the page again.")
    return replace(show, waivers=left)
