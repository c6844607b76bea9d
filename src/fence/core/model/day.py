"""The day of an event, for what runs on batteries. Times are minutes after midnight of the first
day."""

from __future__ import annotations

import re
from dataclasses import dataclass

from fence.core.model.errors import EditError
from fence.core.model.profile import MOST_HOURS
from fence.core.model.text import check_finite, check_whole

A_DAY = 24 * 60

_CLOCK = re.compile(r"([01]?\d|2[0-3])[:.h]?([0-5]\d)?", re.ASCII)


@dataclass(frozen=True, slots=True)
class Measured:
    """Hours that one fixture really lasts, where it differs from what its maker states."""

    fixture: int
    hours: float

    def __post_init__(self) -> None:
        check_whole("fixture", self.fixture, 1, 2**53)
        check_hours("running time", self.hours)


@dataclass(frozen=True, slots=True)
class Day:
    """One of two like days: fixtures are on from set-up to the end, and charge until the next
    set-up.

    ``set_up`` < ``doors`` <= ``end`` < ``next_set_up`` <= ``set_up`` + a day and a half, all in
    minutes after midnight of the first day (the end may lie behind the next midnight). ``reserve``
    percent stay in a battery (practice: 20). ``chargers`` is how many can charge at once, None for
    as many as are needed.
    """

    set_up: int
    doors: int
    end: int
    next_set_up: int
    reserve: int = 20
    chargers: int | None = None
    measured: tuple[Measured, ...] = ()

    def __post_init__(self) -> None:
        check_whole("time of set-up", self.set_up, 0, A_DAY - 1)
        if (
            not self.set_up
            <= self.doors
            <= self.end
            < self.next_set_up
            <= self.set_up + A_DAY * 3 // 2
        ):
            raise EditError(
                "A day runs from set-up over doors and end to the next set-up, within a day and a "
                "half."
            )
        check_whole("reserve in percent", self.reserve, 0, 90)
        if self.chargers is not None:
            check_whole("number of chargers", self.chargers, 1, 10_000)
        if len({held.fixture for held in self.measured}) < len(self.measured):
            raise EditError("The running time of a fixture is given twice.")


def day_of(set_up: str, doors: str, end: str, next_set_up: str) -> Day:
    """A day from four times as people write them (``18:30``, ``9``, ``0130``); each lies behind the
    one before it."""
    times: list[int] = []
    for words in (set_up, doors, end, next_set_up):
        time = clock(words)
        while times and time < times[-1] + (len(times) == 3):
            time += A_DAY
        times.append(time)
    return Day(times[0], times[1], times[2], times[3])


def clock(words: str) -> int:
    """Minutes after midnight; ``EditError`` for what is no time of day."""
    tidy = words.strip()
    found = _CLOCK.fullmatch(tidy) if len(tidy) < 9 else None
    if not found:
        raise EditError(f"“{tidy[:20]}” is not a time of day: type it as 18:30.")
    return int(found[1]) * 60 + int(found[2] or 0)


def as_clock(minutes: float) -> str:
    """The time of day of so many minutes, such as ``18:30``; after midnight ``01:30 +1``."""
    days, rest = divmod(int(minutes), A_DAY)
    return f"{rest // 60:02d}:{rest % 60:02d}" + (f" +{days}" if days else "")


_HOURS = re.compile(
    r"(\d{1,4}(?:[.,]\d{1,2})?)(?:\s*(?:-|–|to)\s*(\d{1,4}(?:[.,]\d{1,2})?))?\s*(?:h|hrs?|hours?)?",
    re.ASCII | re.IGNORECASE,
)


def hours_of(words: str) -> float:
    """Hours as people write them: ``7.5``, ``7,5``, ``6 h``; of ``6-7 h`` the fewer count, since a
    plan has to hold. ``EditError`` for what is no number of hours."""
    tidy = words.strip()
    found = _HOURS.fullmatch(tidy) if len(tidy) < 30 else None
    if not found:
        raise EditError(f"“{tidy[:20]}” is not a number of hours: type 6, 7.5 or 6-7 h.")
    numbers = [float(part.replace(",", ".")) for part in found.groups() if part]
    return check_hours("number of hours", min(numbers))


def check_hours(what: str, hours: float) -> float:
    """Give hours back if they are more than 0 and up to 1000; else ``EditError``."""
    if not 0 < check_finite(what, hours) <= MOST_HOURS:
        raise EditError(
            f"{hours:g} h is not a valid {what}. Use more than 0, up to {MOST_HOURS} hours."
        )
    return hours
