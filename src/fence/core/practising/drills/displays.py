"""A number on a display of seven segments, seen from below."""

from __future__ import annotations

from random import Random

from fence.core.model.address import SLOTS
from fence.core.model.show import Show
from fence.core.practising.question import Kind, Question, question
from fence.core.setting.segments import from_below, lit_for

READABLE = tuple(number for number in range(1, SLOTS + 1) if from_below(f"{number:03d}"))
"""Addresses that look like a number upside down."""
MISLEADING = tuple(
    number for number in READABLE if 1 <= int(from_below(f"{number:03d}") or 0) <= SLOTS
)
"""Addresses that look like another address, or like themselves."""


def seen_from_below(rig: Show, chance: Random, level: int) -> Question | None:
    """What stands on a display that hangs upside down. Level 1: numbers that read as one; level 2:
    any number; level 3: with a d before it, and the question whether it is the planned one."""
    if level < 3:
        address = chance.choice(MISLEADING if level == 1 else range(1, SLOTS + 1))
        digits = f"{address:03d}"
        below = from_below(digits)
        slips: list[tuple[object, str]] = []
        if below:
            slips.append((int(below), "that is what it looks like: turn it over in your head"))
        slips.append((int(digits[::-1]), "the digits are turned as well, not only their order"))
        return question(
            "The fixture hangs upside down, and this is what you see from below. "
            "Which address is set?",
            Kind.NUMBER,
            str(address),
            f"Turned over it is {digits}"
            + (f"; from below it looks like {below}." if below else "."),
            slips,
            lit=lit_for(digits, turned=True),
        )
    plan = chance.choice(MISLEADING)
    shown = chance.choice((plan, plan, int(from_below(f"{plan:03d}") or plan)))
    digits = f"{shown:03d}"
    fits = shown == plan
    return question(
        f"Planned is {plan:03d}. The display hangs upside down, with a d before the number, and "
        "this is what you see from below. Is it right?",
        Kind.CHOICE,
        "yes" if fits else "no",
        f"Turned over it is d{digits}: " + ("as planned." if fits else f"not {plan:03d}."),
        [("no" if fits else "yes", "read it upside down, digit by digit from the right")],
        choices=("yes", "no"),
        lit=lit_for("d" + digits, turned=True),
    )
