"""The days of an event, for what runs on batteries. Times are minutes after midnight of the first
day."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from fence.core.model.errors import EditError
from fence.core.model.profile import MOST_HOURS
from fence.core.model.text import check_finite, check_whole

A_DAY = 24 * 60
MOST_DAYS = 31

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
class Further:
    """A day after the first one: on from set-up to the end. Minutes after midnight of the first
    day; ``set_up`` <= ``doors`` <= ``end``, within a day and a half."""

    set_up: int
    doors: int
    end: int

    def __post_init__(self) -> None:
        if not self.set_up <= self.doors <= self.end <= self.set_up + A_DAY * 3 // 2:
            raise EditError(
                "A day runs from set-up over doors to the end, within a day and a half."
            )


@dataclass(frozen=True, slots=True)
class Day:
    """The days of an event: fixtures are on from set-up to the end, and charge until the next
    set-up.

    ``set_up`` < ``doors`` <= ``end`` < ``next_set_up``, all in minutes after midnight of the first
    day (the end may lie behind the next midnight). ``further`` are the days after the first, each
    behind the one before and the first of them at ``next_set_up``; where there are none, a second
    day is like the first, and ``next_set_up`` is within a day and a half of ``set_up``. ``reserve``
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
    further: tuple[Further, ...] = ()

    def __post_init__(self) -> None:
        check_whole("time of set-up", self.set_up, 0, A_DAY - 1)
        latest = self.set_up + (MOST_DAYS * A_DAY if self.further else A_DAY * 3 // 2)
        if not self.set_up <= self.doors <= self.end < self.next_set_up <= latest:
            raise EditError(
                "A day runs from set-up over doors and end to the next set-up, within a day and a "
                "half."
            )
        check_whole("reserve in percent", self.reserve, 0, 90)
        if self.chargers is not None:
            check_whole("number of chargers", self.chargers, 1, 10_000)
        if len({held.fixture for held in self.measured}) < len(self.measured):
            raise EditError("The running time of a fixture is given twice.")
        if self.further:
            self._check_further()

    def _check_further(self) -> None:
        Further(self.set_up, self.doors, self.end)
        if self.further[0].set_up != self.next_set_up:
            raise EditError("The second day begins at the next set-up.")
        if any(one.end >= other.set_up for one, other in pairwise(self.further)):
            raise EditError("Each day begins after the end of the one before.")
        if len(self.further) >= MOST_DAYS or self.further[-1].end > MOST_DAYS * A_DAY:
            raise EditError(f"A plan has up to {MOST_DAYS} days.")

    @property
    def days(self) -> tuple[Further, ...]:
        """All days, the first one included; at least two."""
        later = self.next_set_up - self.set_up
        alike = Further(self.next_set_up, self.doors + later, self.end + later)
        return (Further(self.set_up, self.doors, self.end), *(self.further or (alike,)))


def day_of(set_up: str, doors: str, end: str, next_set_up: str, further: str = "") -> Day:
    """The days from four times as people write them (``18:30``, ``9``, ``0130``), each behind the
    one before it, and of each further day a line with its set-up, doors and end; ``off`` is a day
    off. With further days the next set-up may be left out."""
    days = [line.split() for line in further.splitlines() if line.strip()]
    if not any(line != ["off"] for line in days):
        days = []
    first = next((line[0] for line in days if line != ["off"]), "")
    words = [set_up, doors, end]
    times = _in_order([*words, next_set_up]) if not days else _in_order(words)
    if first and next_set_up.strip() and clock(next_set_up) != clock(first):
        raise EditError(
            f"The next set-up is {next_set_up.strip()[:10]}, and the second day begins at "
            f"{first[:10]}: make them the same, or leave the first one empty."
        )
    if not days:
        return Day(times[0], times[1], times[2], times[3])
    made: list[Further] = []
    last, off = times[-1], 0
    for line in days:
        if line == ["off"]:
            off += A_DAY
            continue
        if len(line) != 3:
            raise EditError(
                f"“{' '.join(line)[:40]}” is not a day: type set-up, doors and end, such as "
                "10:00 14:00 23:00, or off for a day off."
            )
        begin = clock(line[0])
        while begin <= last:
            begin += A_DAY
        begin += off
        rest = _in_order(line[1:], begin)
        made.append(Further(begin, rest[0], rest[1]))
        last, off = rest[1], 0
    return Day(times[0], times[1], times[2], made[0].set_up, further=tuple(made))


def _in_order(words: Sequence[str], after: int | None = None) -> list[int]:
    """Times of day, each not before the one before it; of four the last is behind the third."""
    times: list[int] = [] if after is None else [after]
    for one in words:
        time = clock(one)
        while times and time < times[-1] + (len(times) == 3):
            time += A_DAY
        times.append(time)
    return times if after is None else times[1:]


def further_words(day: Day) -> str:
    """The further days as they are typed, a line each."""
    lines: list[str] = []
    last = day.end
    for one in day.further:
        gap = one.set_up - last
        lines += ["off"] * ((gap - 1) // A_DAY)
        lines.append(
            " ".join(as_clock(time).split(" ")[0] for time in (one.set_up, one.doors, one.end))
        )
        last = one.end
    return "\n".join(lines)


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
