"""Batteries over two days against a simulation that goes from minute to minute."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from fence.core.checks import check
from fence.core.model.battery import MOST_SWAPS, Pack, battery_day, packs_of
from fence.core.model.day import Day, Further, as_clock, clock, day_of, further_words
from fence.core.model.errors import EditError
from fence.core.model.ground import Ground
from fence.core.model.line import Cable, Device, Line, Power, Stop
from tests.core.lines.test_plan import AIRY, rig
from tests.examples import examples


@st.composite
def days(draw: st.DrawFn) -> tuple[list[Pack], Day]:
    """A few batteries and a day, chargers scarce or not."""
    set_up = draw(st.integers(6, 14)) * 60
    doors = set_up + draw(st.integers(0, 300))
    end = doors + draw(st.integers(60, 480))
    day = Day(
        set_up, doors, end, end + draw(st.integers(120, 600)), draw(st.sampled_from([0, 20])), None
    )
    packs = [
        Pack(
            f"B{n}",
            draw(st.integers(4, 40)) / 2,
            draw(st.sampled_from([None, 1.0, 2.5, 4.0, 7.0])),
            stays=draw(st.booleans()),
        )
        for n in range(draw(st.integers(1, 6)))
    ]
    further: list[Further] = []
    for _ in range(draw(st.integers(0, 3))):
        begin = day.next_set_up
        if further:
            begin = further[-1].end + draw(st.integers(60, 1800))
        opens = begin + draw(st.integers(0, 300))
        further.append(Further(begin, opens, opens + draw(st.integers(0, 480))))
    chargers = draw(st.sampled_from([None, 1, 2, 3]))
    return packs, replace(day, chargers=chargers, further=tuple(further))


def simulate(
    packs: list[Pack], day: Day, chargers: int | None
) -> tuple[list[dict[tuple[str, int], float]], list[list[float]]]:
    """Minute by minute: on, then on a charger while one is free (what needs longest first), then on
    again, day by day. What is seen of each by what and day, and its levels at each set-up."""
    levels = [1.0] * len(packs)
    seen: list[dict[tuple[str, int], float]] = [{} for _ in packs]
    mornings: list[list[float]] = []

    def drain(begin: int, end: int, day_number: int) -> None:
        for minute in range(begin, end):
            for at, pack in enumerate(packs):
                levels[at] -= 1 / (pack.hours * 60)
                if levels[at] < day.reserve / 100 - 1e-9:
                    seen[at].setdefault(("reserve", day_number), minute)
                if levels[at] < -1e-9:
                    seen[at].setdefault(("flat", day_number), minute)
                levels[at] = max(0.0, levels[at])

    def charge(begin: int, end: int) -> None:
        queue = sorted(
            (at for at, p in enumerate(packs) if p.charge),
            key=lambda at: (-(1 - levels[at]) * packs[at].charge, at),
        )
        places: list[int | None] = [None] * (chargers or len(packs))
        for _ in range(begin, end):
            for place, at in enumerate(places):
                if (at is None or levels[at] >= 1 - 1e-9) and queue:
                    places[place] = queue.pop(0)
            for at in places:
                if at is not None:
                    levels[at] = min(1.0, levels[at] + 1 / (packs[at].charge * 60))

    for number, one in enumerate(day.days):
        if number:
            charge(day.days[number - 1].end, one.set_up)
        mornings.append(list(levels))
        drain(one.set_up, one.end, number)
        for at, level in enumerate(levels):
            seen[at]["left", number] = level
    return seen, mornings


def days_in_order(packs: list[Pack], day: Day, left: list[tuple[float, ...]]) -> int:
    """Of how many days it is sure who was charged before whom. Where two need nearly as long, a
    minute decides which of them waits for hours. ``left`` are the levels at the ends of days."""
    charged = [(pack, ends) for pack, ends in zip(packs, left, strict=True) if pack.charge]
    if (day.chargers or len(packs)) >= len(charged):
        return len(day.days)
    for night in range(len(day.days) - 1):
        slack = 2 * night * len(packs) + 1e-6
        for (one, ends), (other, its) in combinations(charged, 2):
            needs = [(1 - ends[night]) * one.charge * 60, (1 - its[night]) * other.charge * 60]
            alike = (one.hours, one.charge, ends) == (other.hours, other.charge, its)
            if not alike and abs(needs[0] - needs[1]) <= slack:
                return night + 1
    return len(day.days)


NEARLY_AS_LONG = (
    [
        *(Pack(f"B{n}", 2.0, None) for n in range(3)),
        Pack("B3", 2.0, 7.0),
        Pack("B4", 15.5, 7.0),
        Pack("B5", 18.5, 7.0),
    ],
    Day(
        360,
        360,
        593,
        739,
        0,
        2,
        further=(Further(739, 907, 1387), Further(1447, 1447, 1447)),
    ),
)


@example(NEARLY_AS_LONG)
@examples(80)
@given(days())
def test_the_days_are_as_they_run_minute_by_minute(drawn: tuple[list[Pack], Day]) -> None:
    """Levels at the ends and in the mornings, when the reserve begins, when it is flat: to the
    minute."""
    packs, day = drawn
    plan = battery_day(packs, day)
    seen, mornings = simulate(packs, day, day.chargers)
    sure = days_in_order(packs, day, [held.left for held in plan.packs])
    for place, (held, told) in enumerate(zip(plan.packs, seen, strict=True)):
        # a charger that is freed within a minute is taken at the next full one: a few minutes of
        # charge at most, each night
        near = 0.0 if held.pack.charge is None else len(packs) / (held.pack.charge * 60)
        for number in range(sure):
            assert held.left[number] == pytest.approx(
                told["left", number], abs=1e-6 + number * near
            )
            level = (1.0, *held.mornings)[number]
            assert mornings[number][place] == pytest.approx(level, abs=1e-6 + number * near)
        for mine, name in ((held.reaches, "reserve"), (held.flat, "flat")):
            assert (mine is None) == ((name, 0) not in told)
            assert mine is None or abs(mine - told[name, 0]) <= 1.01
        for number, flat in enumerate(held.later_flats, 1):
            slack = number * near * held.pack.hours * 60 + 1.01
            begin, end = day.days[number].set_up, day.days[number].end
            empties = begin + held.mornings[number - 1] * held.pack.hours * 60
            if flat is None:
                assert empties >= end - 1e-6
            if number < sure and abs(empties - end) > slack:
                assert (flat is None) == (("flat", number) not in told)
                assert flat is None or abs(flat - told["flat", number]) <= slack
    if plan.chargers:
        full = simulate(packs, day, plan.chargers)[1]
        slack = len(packs) / 60 * len(day.days)
        assert all(
            level > 1 - slack or not p.charge
            for levels in full
            for level, p in zip(levels, packs, strict=True)
        )
    elif plan.chargers is None:
        full = simulate(packs, day, None)[1]
        assert any(
            level < 1 - 1e-9 and p.charge
            for levels in full
            for level, p in zip(levels, packs, strict=True)
        )


@examples(80)
@given(days())
def test_charging_until_doors_and_swapping_carry_through_the_day(
    drawn: tuple[list[Pack], Day],
) -> None:
    """Put on charge at the latest time it ends on the reserve, five minutes later below it; with
    the swaps never."""
    packs, day = drawn
    reserve = day.reserve / 100
    for held in battery_day(packs, day).packs:

        def end_if_charged(begin: float, pack: Pack = held.pack) -> float:
            level = 1 - (begin - day.set_up) / 60 / pack.hours
            level = min(1.0, level + (day.doors - begin) / 60 / (pack.charge or 1))
            return level - (day.end - day.doors) / 60 / pack.hours

        if held.charge_by is not None:
            assert end_if_charged(held.charge_by) >= reserve - 1e-6
            assert held.reaches is not None
            assert held.charge_by <= held.reaches + 1e-6  # it is never below the reserve before
            assert end_if_charged(held.charge_by + 5) < reserve or held.charge_by + 5 > held.reaches
        elif held.reaches is not None and held.pack.charge is not None and day.doors > day.set_up:
            assert all(end_if_charged(minute) < reserve for minute in range(day.set_up, day.doors))
        if held.pack.stays:
            assert not any(held.swaps), "what is built in is never swapped"
            continue
        for one, morning, swaps in zip(day.days, (1.0, *held.mornings), held.swaps, strict=True):
            level = morning
            for a, b in zip((one.set_up, *swaps), (*swaps, one.end), strict=True):
                if len(swaps) < MOST_SWAPS:
                    lasts = max(0.0, level - reserve) * held.pack.hours * 60
                    assert b - a <= lasts + 1e-6
                level = 1.0


def test_times_of_a_day_as_people_write_them() -> None:
    """Each time lies behind the one before; nonsense is refused with an example."""
    day = day_of("9", "18:00", "01.30", "9h")
    assert (day.set_up, day.doors, day.end, day.next_set_up) == (540, 1080, 1530, 1980)
    assert [as_clock(m) for m in (540, 1530)] == ["09:00", "01:30 +1"]
    assert clock("0130") == 90
    for bad in ("", "25", "9:75", "noon", "9" * 30):
        with pytest.raises(EditError, match="18:30"):
            clock(bad)
    days = day_of("9", "18", "23:30", "", "10:00 14:00 23:00\noff\n9 12 1:00\n")
    assert [as_clock(one.set_up) for one in days.further] == ["10:00 +1", "09:00 +3"]
    assert as_clock(days.further[1].end) == "01:00 +4"
    assert further_words(days) == "10:00 14:00 23:00\noff\n09:00 12:00 01:00"
    assert day_of("9", "18", "23:30", "10", further_words(days)) == days
    with pytest.raises(EditError, match="make them the same"):
        day_of("9", "18", "23:30", "9", "10:00 14:00 23:00")
    with pytest.raises(EditError, match="10:00 14:00 23:00"):
        day_of("9", "18", "23:30", "", "10:00 14:00")
    with pytest.raises(EditError, match="from set-up"):
        Day(600, 500, 700, 900)


def test_a_pack_belongs_to_a_box() -> None:
    """Of a file that puts one on a fixture's stop nothing is asked: a fixture has the battery that
    its chart states."""
    pack = {"power": Power.PACK, "hours": 2.0}
    stops = (
        Stop(1, device=Device.TRANSMITTER, label="S", **pack),
        Stop(2, 1, fixture=1, cable=Cable.WIRELESS, **pack),
    )
    show = rig([("P", AIRY, 1)], Ground())
    show = replace(show, lines=(Line(1, "Air", 1, stops=stops),), day=day_of("9", "18", "23", "9"))
    assert [held.name for held in packs_of(show)] == ["S"]
    assert [f.message for f in check(show) if f.rule == "battery-day"] == [
        "S lasts 2 of 14 hours: swap it at 10:36, 12:12, 13:48 and 5 more."
    ]
