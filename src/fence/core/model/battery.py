"""What runs on a battery, over two like days: how long it lasts, when to charge or swap, how many
chargers.

The level falls evenly over the stated hours while a fixture is on (from set-up to the end) and
rises evenly over the stated charging hours. A day begins at set-up; the first begins full. At the
end of a day everything goes on charge, as many at once as there are chargers, what is emptiest
first, until the next set-up.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush
from math import ceil

from fence.core.model.day import Day
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
    """One battery over two days. Levels are shares of a full battery, 0 to 1; times minutes after
    the first midnight.

    ``left`` is the level at the end of each day; ``reaches`` when the first falls to the reserve,
    ``flat`` when it is empty, both None where the day ends before. ``charge_by`` is the latest time
    to put it on charge until doors, so that it lasts from then on, None where it need not or that
    does not help; ``swaps`` when to put a full one in its place, never of one that is built in.
    ``on_charge`` is from when to when it charges between the days, ``morning`` its level at the
    next set-up.
    """

    pack: Pack
    left: tuple[float, float]
    reaches: float | None
    flat: float | None
    charge_by: float | None
    swaps: tuple[float, ...]
    on_charge: tuple[float, float] | None
    morning: float
    second_flat: float | None

    @property
    def hours_left(self) -> float:
        """Hours that it would go on at the end of the first day."""
        return self.left[0] * self.pack.hours


@dataclass(frozen=True, slots=True)
class BatteryDay:
    """The plan: each battery, how many chargers are needed at once for all to be full by the next
    set-up (None where no number suffices), and spare batteries to bring."""

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
    """The plan of two like days."""
    firsts = [_level(pack, 1.0, day.end - day.set_up) for pack in packs]
    times = _charging(packs, firsts, day, day.chargers)
    lasting = tuple(
        _lasting(pack, day, first, time)
        for pack, first, time in zip(packs, firsts, times, strict=True)
    )
    return BatteryDay(
        day,
        lasting,
        _least_chargers(packs, firsts, day),
        sum(len(held.swaps) for held in lasting),
    )


def _level(pack: Pack, level: float, minutes: float) -> float:
    return max(0.0, level - minutes / 60 / pack.hours)


def _need(pack: Pack, level: float) -> float:
    """Minutes of charging until it is full."""
    return 0.0 if pack.charge is None else (1 - level) * pack.charge * 60


def _charging(
    packs: Sequence[Pack], levels: Sequence[float], day: Day, chargers: int | None
) -> list[tuple[float, float] | None]:
    """From when to when each charges after the end of the day: those that need longest first, a
    charger at a time."""
    free = [float(day.end)] * min(chargers or len(packs), len(packs))
    heapify(free)
    found: list[tuple[float, float] | None] = [None] * len(packs)
    for at in sorted(range(len(packs)), key=lambda at: (-_need(packs[at], levels[at]), at)):
        need = _need(packs[at], levels[at])
        if not need or not free or free[0] >= day.next_set_up:
            continue
        begin = heappop(free)
        end = min(begin + need, float(day.next_set_up))
        heappush(free, end)
        found[at] = begin, end
    return found


def _least_chargers(packs: Sequence[Pack], levels: Sequence[float], day: Day) -> int | None:
    """The fewest chargers with which all are full by the next set-up, as they are handed out
    here."""
    needs = [_need(pack, level) for pack, level in zip(packs, levels, strict=True)]
    room = day.next_set_up - day.end
    if not any(needs):
        return 0
    if max(needs) > room + 1e-9:
        return None
    for number in range(max(1, ceil(sum(needs) / room - 1e-9)), len(packs) + 1):
        spans = _charging(packs, levels, day, number)
        if all(
            not need or (span and span[1] - span[0] >= need - 1e-6)
            for need, span in zip(needs, spans, strict=True)
        ):
            return number
    return None


def _lasting(pack: Pack, day: Day, first: float, on_charge: tuple[float, float] | None) -> Lasting:
    run, reserve = pack.hours * 60, day.reserve / 100
    swaps: list[float] = []
    time = day.set_up + run * (1 - reserve)
    while time < day.end - 1e-6 and len(swaps) < MOST_SWAPS:
        swaps.append(time)
        time += run * (1 - reserve)
    charged = (on_charge[1] - on_charge[0]) / 60 / pack.charge if on_charge and pack.charge else 0.0
    morning = min(1.0, first + charged)
    second = _level(pack, morning, day.end - day.set_up)
    flat, next_flat = day.set_up + run, day.next_set_up + morning * run
    return Lasting(
        pack,
        (first, second),
        swaps[0] if swaps else None,
        flat if flat < day.end - 1e-6 else None,
        _charge_by(pack, day, reserve) if swaps else None,
        () if pack.stays else tuple(swaps),
        on_charge,
        morning,
        next_flat if next_flat < day.next_set_up + (day.end - day.set_up) - 1e-6 else None,
    )


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
