"""The network of 200 boxes and 1,000 ports: the page (400 ms of server time allowed) and the plan
(1 s allowed).

The yardstick in the same run is the page of a show without boxes.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.box import Box, BoxKind, Port
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.network.ports import plan_ports
from fence.web import create_app

BOXES, PORTS, UNIVERSES, TIMES = 200, 5, 600, 15
LAMP = Profile("lamp", "Trowel", "Lamp", (Mode("m", (Part(200),)),))


def rig() -> Show:
    """A show of 600 universes, two fixtures each, and 200 boxes of which every other is in use."""
    show = Show("Bench")
    for universe in range(1, UNIVERSES + 1):
        run = edits.AddRun(
            LAMP, "m", 2, f"L {2 * universe}", None, "P", universe, Address(universe, 1)
        )
        show = edits.add_fixtures(show, run)
    desk = Box(1, "Desk", BoxKind.DESK, "10.0.0.1", 16)
    boxes = tuple(
        Box(
            number,
            f"dock {number}",
            ip=f"10.0.{number // 200}.{number % 200 + 2}",
            prefix=16,
            counts_from=number % 2,
            ports=tuple(
                Port(
                    port,
                    number * PORTS // 2 + port
                    if number % 2 and number * PORTS // 2 + port <= UNIVERSES
                    else None,
                )
                for port in range(1, PORTS + 1)
            ),
        )
        for number in range(2, BOXES + 2)
    )
    return replace(show, boxes=(desk, *boxes))


def main() -> None:
    """Print the figures."""
    show = rig()
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db")
        store = app.extensions["fence_pages"].store
        loaded = store.create(show, who="Bench").id
        plain = store.create(replace(show, boxes=()), who="Bench").id
        client = app.test_client()
        spent: dict[int, list[float]] = {loaded: [], plain: []}
        for turn in range(TIMES + 1):
            for show_id, found in spent.items():
                start = perf_counter()
                answer = client.get(f"/shows/{show_id}/network")
                if turn:
                    found.append(perf_counter() - start)
                assert answer.status_code == 200
    start = perf_counter()
    plan = plan_ports(show)
    planned = perf_counter() - start
    page, bare = median(spent[loaded]), median(spent[plain])
    print(f"page {page * 1000:.0f} ms (400 allowed), {page / bare:.1f} times one without boxes")
    print(
        f"plan of {len(plan.moved)} ports {planned:.2f} s (1 allowed), proven: {plan.proven}, "
        f"left: {len(plan.left)}"
    )


if __name__ == "__main__":
    main()
