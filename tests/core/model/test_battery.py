"""Batteries over two days against a simulation that goes from minute to minute."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.checks import check
from fence.core.model.battery import Pack, battery_day, packs_of
from fence.core.model.day import Day, as_clock, clock, day_of
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
    chargers = draw(st.sampled_from([None, 1, 2, 3]))
    return packs, Day(day.set_up, day.doors, day.end, day.next_set_up, day.reserve, chargers)


def simulate(
    packs: list[Pack], day: Day, chargers: int | None
) -> tuple[list[dict[str, float]], list[float]]:
    """Minute by minute: on, then on a charger while one is free (what needs longest first), then on
    again."""
    levels = [1.0] * len(packs)
    seen: list[dict[str, float]] = [{} for _ in packs]

    def drain(begin: int, end: int, name: str) -> None:
        for minute in range(begin, end):
            for at, pack in enumerate(packs):
                levels[at] -= 1 / (pack.hours * 60)
                if levels[at] < day.reserve / 100 - 1e-9:
                    seen[at].setdefault(f"{name} reserve", minute)
                if levels[at] < -1e-9:
                    seen[at].setdefault(f"{name} flat", minute)
                levels[at] = max(0.0, levels[at])

    drain(day.set_up, day.end, "first")
    for at, level in enumerate(levels):
        seen[at]["left"] = level
    queue = sorted(
        (at for at, p in enumerate(packs) if p.charge),
        key=lambda at: (-(1 - levels[at]) * packs[at].charge, at),
    )
    places: list[int | None] = [None] * (chargers or len(packs))
    for _ in range(day.end, day.next_set_up):
        for place, at in enumerate(places):
            if (at is None or levels[at] >= 1 - 1e-9) and queue:
                places[place] = queue.pop(0)
        for at in places:
            if at is not None:
                levels[at] = min(1.0, levels[at] + 1 / (packs[at].charge * 60))
    morning = list(levels)
    drain(day.next_set_up, day.next_set_up + day.end - day.set_up, "second")
    for at, level in enumerate(levels):
        seen[at]["second left"] = level
    return seen, morning


@examples(80)
@given(days())
def test_two_days_are_as_they_run_minute_by_minute(drawn: tuple[list[Pack], Day]) -> None:
    """Levels at the ends and in the morning, when the reserve begins, when it is flat: to the
    minute."""
    packs, day = drawn
    plan = battery_day(packs, day)
    seen, morning = simulate(packs, day, day.chargers)
    for held, told, level in zip(plan.packs, seen, morning, strict=True):
        # a charger that is freed within a minute is taken at the next full one: a few minutes of
        # charge at most
        near = 0.0 if held.pack.charge is None else len(packs) / (held.pack.charge * 60)
        assert held.left[0] == pytest.approx(told["left"], abs=1e-6)
        assert held.morning == pytest.approx(level, abs=1e-6 + near)
        assert held.left[1] == pytest.approx(told["second left"], abs=1e-6 + near)
        for mine, name in ((held.reaches, "first reserve"), (held.flat, "first flat")):
            assert (mine is None) == (name not in told)
            assert mine is None or abs(mine - told[name]) <= 1.01
    if plan.chargers:
        full = simulate(packs, day, plan.chargers)[1]
        slack = len(packs) / 60
        assert all(level > 1 - slack or not p.charge for level, p in zip(full, packs, strict=True))
    elif plan.chargers is None:
        full = simulate(packs, day, None)[1]
        assert any(level < 1 - 1e-9 and p.charge for level, p in zip(full, packs, strict=True))


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
            assert held.swaps == (), "what is built in is never swapped"
            continue
        stretches = zip((day.set_up, *held.swaps), (*held.swaps, day.end), strict=True)
        if len(held.swaps) < 12:
            assert all(1 - (b - a) / 60 / held.pack.hours >= reserve - 1e-6 for a, b in stretches)


def test_times_of_a_day_as_people_write_them() -> None:
    """Each time lies behind the one before; nonsense is refused with an example."""
    day = day_of("9", "18:00", "01.30", "9h")
    assert (day.set_up, day.doors, day.end, day.next_set_up) == (540, 1080, 1530, 1980)
    assert [as_clock(m) for m in (540, 1530)] == ["09:00", "01:30 +1"]
    assert clock("0130") == 90
    for bad in ("", "25", "9:75", "noon", "9" * 30):
        with pytest.raises(EditError, match="18:30"):
            clock(bad)
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
