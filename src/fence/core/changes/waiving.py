"""Letting a finding stand for a reason, and taking that back."""

from __future__ import annotations

from dataclasses import replace

from fence.core.checks.finding import Finding
from fence.core.words.errors import EditError
from fence.core.words.record import NOBODY, Witness
from fence.core.words.show import Show
from fence.core.words.waiver import Waiver


def waive(show: Show, finding: Finding, reason: str, by: Witness = NOBODY) -> Show:
    """Let a finding stand, with the reason. One that was let stand before gets the new reason."""
    made = Waiver(finding.rule, finding.key, finding.message, " ".join(reason.split()), by)
    return replace(show, waivers=(*(held for held in show.waivers if held.key != finding.key), made))


def unwaive(show: Show, key: str) -> Show:
    """Take back that a finding is let stand; ``EditError`` where it is not."""
    left = tuple(held for held in show.waivers if held.key != key)
    if len(left) == len(show.waivers):
        raise EditError("That finding is not let stand: load the page again.")
    return replace(show, waivers=left)
