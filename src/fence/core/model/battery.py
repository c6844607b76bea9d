"""What runs on a battery, over the days of an event: how long it lasts, when to charge or swap, how
many chargers.

The level falls evenly over the stated hours while a fixture is on (from set-up to the end) and
rises evenly over the stated charging hours. A day begins at set-up; the first begins full. At the
end of a day everything goes on charge, as many at once as there are chargers, what is emptiest
first, until the next set-up.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush
from itertools import pairwise
from math import ceil

from fence.core.model.day import Day, Further
from fence.core.model.line import Power
from fence.core.model.show import Show
from fence.core.model.wiring import name_of

MOST_SWAPS = 12


@dataclass(frozen=True, slots=True)
class Pack:
    """Something on a battery: a fixture, or the small box of a stop. Hours; ``charge`` None where
    nobody states it. ``stays``: it is built in, and can only be charged."""

    name: str
    hours: float
    charge: float | None
    fixture: int | None = None
    line: int | None = None
    stop: int | None = None
    note: str = ""
    stays: bool = False


@dataclass(frozen=True, slots=True)
class Lasting:
    """One battery over the days. Levels are shares of a full battery, 0 to 1; times minutes after
    the first midnight.

    ``left`` is the level at the end of each day; ``reaches`` when the first falls to the reserve,
    ``flat`` when it is empty, both None where the first day ends before. ``charge_by`` is the
    latest time of the first day to put it on charge until doors, so that it lasts from then on,
    None where it need not or that does not help; ``swaps`` when to put a full one in its place, a
    tuple a day, never of one that is built in. ``charges`` is from when to when it charges after
    each day but the last (None where it does not), ``mornings`` its level at the set-ups that
    follow; ``later_flats`` when it is empty on each later day, None where it lasts.
    """

    pack: Pack
    left: tuple[float, ...]
    reaches: float | None
    flat: float | None
    charge_by: float | None
    swaps: tuple[tuple[float, ...], ...]
    charges: tuple[tuple[float, float] | None, ...]
    mornings: tuple[float, ...]
    later_flats: tuple[float | None, ...]

    @property
    def hours_left(self) -> float:
        """Hours that it would go on at the end of the first day."""
        return self.left[0] * self.pack.hours

    @property
    def later_flat(self) -> float | None:
        """When it is first empty on a later day; None where it lasts all of them."""
        return next((time for time in self.later_flats if time is not None), None)


@dataclass(frozen=True, slots=True)
class BatteryDay:
    """The plan: each battery, how many chargers are needed at once for all to be full by each next
    set-up (None where no number suffices), and spare batteries to bring for a day."""

    day: Day
    packs: tuple[Lasting, ...]
    chargers: int | None
    spares: int


def packs_of(show: Show) -> list[Pack]:
    """Everything of a show that runs on a battery, in rig order, then the boxes of its lines."""
    measured = {held.fixture: held.hours for held in show.day.measured} if show.day else {}
    found = []
    for fixture in show.fixtures:
        profile = show.profile_of(fixture)
        if profile is not None and profile.battery_hours is not None:
            hours = measured.get(fixture.id, profile.battery_hours)
            found.append(
                Pack(
                    fixture.label,
                    hours,
                    profile.charge_hours,
                    fixture.id,
                    note=profile.charge_note,
                    stays=profile.battery_stays,
                )
            )
    for line in show.lines:
        for stop in line.stops:
            if stop.device is not None and stop.power is Power.PACK and stop.hours is not None:
                found.append(
                    Pack(name_of(show, stop), stop.hours, None, line=line.id, stop=stop.id)
                )
    return found


def battery_day(packs: Sequence[Pack], day: Day) -> BatteryDay:
    """The plan of all days."""
    days, mornings = day.days, [[1.0] for _ in packs]
    left: list[list[float]] = [[] for _ in packs]
    charges: list[list[tuple[float, float] | None]] = [[] for _ in packs]
    for at, one in enumerate(days):
        ends = [
            _level(pack, held[-1], one.end - one.set_up)
            for pack, held in zip(packs, mornings, strict=True)
        ]
        for held, level in zip(left, ends, strict=True):
            held.append(level)
        if at + 1 == len(days):
            break
        night = one.end, days[at + 1].set_up
        for n, (pack, span) in enumerate(
            zip(packs, _charging(packs, ends, night, day.chargers), strict=True)
        ):
            charged = (span[1] - span[0]) / 60 / pack.charge if span and pack.charge else 0.0
            charges[n].append(span)
            mornings[n].append(min(1.0, ends[n] + charged))
    lasting = tuple(
        _lasting(pack, day, ends, spans, begins)
        for pack, ends, spans, begins in zip(packs, left, charges, mornings, strict=True)
    )
    return BatteryDay(
        day,
        lasting,
        _chargers_for_all(packs, days),
        max(sum(len(held.swaps[at]) for held in lasting) for at in range(len(days))),
    )


def _chargers_for_all(packs: Sequence[Pack], days: Sequence[Further]) -> int | None:
    """The fewest chargers with which all are full at every set-up."""
    most = 0
    for one, other in pairwise(days):
        levels = [_level(pack, 1.0, one.end - one.set_up) for pack in packs]
        number = _least_chargers(packs, levels, (one.end, other.set_up))
        if number is None:
            return None
        most = max(most, number)
    return most


def _level(pack: Pack, level: float, minutes: float) -> float:
    return max(0.0, level - minutes / 60 / pack.hours)


def _need(pack: Pack, level: float) -> float:
    """Minutes of charging until it is full."""
    return 0.0 if pack.charge is None else (1 - level) * pack.charge * 60


def _charging(
    packs: Sequence[Pack],
    levels: Sequence[float],
    night: tuple[int, int],
    chargers: int | None,
) -> list[tuple[float, float] | None]:
    """From when to when each charges between the end of a day and the next set-up: those that need
    longest first, a charger at a time."""
    end_of_day, set_up = night
    free = [float(end_of_day)] * min(chargers or len(packs), len(packs))
    heapify(free)
    found: list[tuple[float, float] | None] = [None] * len(packs)
    for at in sorted(range(len(packs)), key=lambda at: (-_need(packs[at], levels[at]), at)):
        need = _need(packs[at], levels[at])
        if not need or not free or free[0] >= set_up:
            continue
        begin = heappop(free)
        end = min(begin + need, float(set_up))
        heappush(free, end)
        found[at] = begin, end
    return found


def _least_chargers(
    packs: Sequence[Pack], levels: Sequence[float], night: tuple[int, int]
) -> int | None:
    """The fewest chargers with which all are full by the next set-up, as they are handed out
    here."""
    needs = [_need(pack, level) for pack, level in zip(packs, levels, strict=True)]
    room = night[1] - night[0]
    if not any(needs):
        return 0
    if max(needs) > room + 1e-9:
        return None
    for number in range(max(1, ceil(sum(needs) / room - 1e-9)), len(packs) + 1):
        spans = _charging(packs, levels, night, number)
        if all(
            not need or (span and span[1] - span[0] >= need - 1e-6)
            for need, span in zip(needs, spans, strict=True)
        ):
            return number
    return None


def _lasting(
    pack: Pack,
    day: Day,
    left: Sequence[float],
    charges: Sequence[tuple[float, float] | None],
    mornings: Sequence[float],
) -> Lasting:
    run, reserve = pack.hours * 60, day.reserve / 100
    swaps = [
        _swaps(one, run, reserve, level) for one, level in zip(day.days, mornings, strict=True)
    ]
    flats = [
        flat if (flat := one.set_up + level * run) < one.end - 1e-6 else None
        for one, level in zip(day.days, mornings, strict=True)
    ]
    return Lasting(
        pack,
        tuple(left),
        swaps[0][0] if swaps[0] else None,
        flats[0],
        _charge_by(pack, day, reserve) if swaps[0] else None,
        tuple(() for _ in swaps) if pack.stays else tuple(swaps),
        tuple(charges),
        tuple(mornings[1:]),
        tuple(flats[1:]),
    )


def _swaps(one: Further, run: float, reserve: float, level: float) -> tuple[float, ...]:
    """When a full one is put in its place on a day that begins at a level, at the reserve each
    time; ``run`` minutes a battery."""
    found: list[float] = []
    time = one.set_up + max(0.0, run * (level - reserve))
    while time < one.end - 1e-6 and len(found) < MOST_SWAPS:
        found.append(time)
        time += run * (1 - reserve)
    return tuple(found)


def _charge_by(pack: Pack, day: Day, reserve: float) -> float | None:
    """The latest time to put it on charge until doors, so that it ends the day with the reserve and
    never falls below it before."""
    if pack.charge is None:
        return None
    run, fill = pack.hours * 60, pack.charge * 60
    wanted = (day.end - day.doors) / run + reserve
    # level at doors, put on charge at x: 1 - (x - set_up) / run + (doors - x) / fill
    latest = (1 - wanted + day.set_up / run + day.doors / fill) / (1 / run + 1 / fill)
    latest = min(latest, day.set_up + run * (1 - reserve))
    return latest if wanted <= 1 and day.set_up <= latest < day.doors else None
