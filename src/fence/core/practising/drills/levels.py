"""Percent, 0 to 255, and 16 bits."""

from __future__ import annotations

from math import ceil, floor
from random import Random

from fence.core.model.show import Show
from fence.core.practising.question import Kind, Question, question

FULL, FULL_FINE = 255, 65535
"""Full of one byte, and of two."""


def level_of(percent: int, full: int = FULL) -> int:
    """The level of a percentage of full: the nearest."""
    return floor(percent * full / 100 + 0.5)


def percent_of(level: int, full: int = FULL) -> int:
    """The percentage of a level, to the nearest whole one."""
    return floor(level * 100 / full + 0.5)


def scales(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: percent to 0 to 255; level 2: back; level 3: 16 bits in two bytes."""
    if level == 1:
        return _to_level(chance)
    if level == 2:
        return _to_percent(chance)
    return _fine(chance)


def _to_level(chance: Random) -> Question:
    percent = chance.randint(1, 99)
    exact = percent * FULL / 100
    right = dict.fromkeys((level_of(percent), floor(exact), ceil(exact)))
    return question(
        f"A desk shows {percent} %. Which level from 0 to 255 is that?",
        Kind.NUMBER,
        [str(one) for one in right],
        f"{percent} ÷ 100 × 255 = {exact:g}, so {level_of(percent)} (desks differ in rounding)",
        [
            (percent, "that is the percentage: full is 255, not 100"),
            (floor(percent * 256 / 100 + 0.5), "full is 255, not 256"),
            (FULL - level_of(percent), "from the wrong end"),
        ],
    )


def _to_percent(chance: Random) -> Question:
    held = chance.randint(1, 254)
    exact = held * 100 / FULL
    right = dict.fromkeys((percent_of(held), floor(exact), ceil(exact)))
    return question(
        f"A tester shows level {held} (0 to 255). How many percent is that?",
        Kind.NUMBER,
        [str(one) for one in right],
        f"{held} ÷ 255 × 100 = {exact:.1f}, so {percent_of(held)} %",
        [
            (held, "that is the level: full is 255, and 100 %"),
            (100 - percent_of(held), "from the wrong end"),
            (level_of(min(held, 100)), "the other way round: percent to level"),
        ],
    )


def _fine(chance: Random) -> Question:
    percent = chance.randint(1, 99)
    value = level_of(percent, FULL_FINE)
    coarse, fine = divmod(value, 256)
    asked = chance.choice(("coarse", "fine", "whole"))
    if asked == "whole":
        return question(
            f"Pan stands at coarse {coarse}, fine {fine}. Which value is that of 65535?",
            Kind.NUMBER,
            str(value),
            f"{coarse} × 256 + {fine} = {value}",
            [
                (coarse * 255 + fine, "a coarse step is 256, not 255"),
                (coarse + fine, "coarse counts 256 each"),
                (fine * 256 + coarse, "coarse and fine the wrong way round"),
            ],
        )
    right = coarse if asked == "coarse" else fine
    return question(
        f"Pan is to stand at {value} of 65535. Which level has its {asked} byte?",
        Kind.NUMBER,
        str(right),
        f"{value} ÷ 256 = {coarse}, and {fine} over",
        [
            (fine if asked == "coarse" else coarse, "that is the other byte"),
            (value // 255, "a coarse step is 256, not 255"),
            (percent, "that is the percentage"),
        ],
    )
