"""How long the rules of the cable take: 500 stops on 40 lines with splitters, batteries and air,
wanted under 50 ms.

The yardstick in the same run is one walk over all stops that only counts them.
"""

from __future__ import annotations

from dataclasses import replace
from statistics import median
from time import perf_counter

from fence.core import edits
from fence.core.checks.lines import check_lines
from fence.core.model.address import Address
from fence.core.model.day import Day
from fence.core.model.line import Device
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show

LINES, STOPS, TIMES = 40, 500, 30
LAMP = Profile(
    "lamp",
    "Trowel",
    "Lamp",
    (Mode("m", (Part(1),)),),
    connectors_in="5-pin",
    connectors_out="3-pin",
)


def rig() -> Show:
    """As many lines as asked for, a splitter on every other, each stop with plugs that do not meet,
    on batteries."""
    fixtures = STOPS - LINES // 2
    lamp = replace(LAMP, battery_hours=6, charge_hours=9)
    show = edits.add_fixtures(
        Show("Bench"), edits.AddRun(lamp, "m", fixtures, "L 1", None, "P", 1, Address(1, 1))
    )
    ids = [fixture.id for fixture in show.fixtures]
    for number in range(LINES):
        show = edits.chain(
            edits.add_line(show, f"Line {number}", 1), number + 1, ids[number::LINES]
        )
        if number % 2:
            show = edits.insert(show, number + 1, Device.SPLITTER, before=3, outputs=4)
    return replace(show, day=Day(540, 1080, 1410, 1980, chargers=20))


def main() -> None:
    """Print the figures."""
    show = rig()
    spent, plain = [], []
    for _ in range(TIMES):
        start = perf_counter()
        found = list(check_lines(show))
        spent.append(perf_counter() - start)
        start = perf_counter()
        stops = sum(stop.length is None for line in show.lines for stop in line.stops)
        plain.append(perf_counter() - start)
    print(
        f"{stops} stops on {LINES} lines, {len(found)} findings: {median(spent) * 1000:.1f} ms "
        "(50 allowed), "
        f"{median(spent) / median(plain):.0f} times a walk over the stops"
    )


if __name__ == "__main__":
    main()
