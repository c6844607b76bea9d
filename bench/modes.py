"""How fast the best combination of modes is found: 600 fixtures with 5 modes each, against sorting
as a yardstick.

Each line gives the universes that were asked for, the seconds, and how that compares with the plain
combination in which every fixture takes its largest mode (the time to read the rig and pack it
once).
"""

from __future__ import annotations

import random
from time import perf_counter

from fence.core.model.fixture import Fixture
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.modes.combine import Goal, combine

FIXTURES, MODES, WIDEST = 600, 5, 60


def rig_of_types(types: int, seed: int) -> Show:
    """A rig of so many types, every one with its own five footprints and features."""
    chance, functions = random.Random(seed), list(Function)

    def mode(footprint: int) -> Mode:
        rich = chance.randint(1, len(functions) - 4)
        channels = tuple(Channel(functions[min(place, rich)]) for place in range(footprint))
        return Mode(f"{footprint} channel", (Part(footprint, channels),))

    profiles = tuple(
        Profile(
            f"t{n}",
            "Spade",
            f"S{n}",
            tuple(map(mode, sorted(chance.sample(range(1, WIDEST), MODES)))),
        )
        for n in range(types)
    )
    fixtures = tuple(
        Fixture(n, f"F{n}", profiles[n % types].id, profiles[n % types].modes[0].name)
        for n in range(FIXTURES)
    )
    return Show("Bench", fixtures, profiles, next_id=FIXTURES)


def main() -> None:
    """Print the figures."""
    for types in (FIXTURES, 30, 6):
        show = rig_of_types(types, seed=types)
        start = perf_counter()
        full = combine(show, Goal.FULL)
        plain = perf_counter() - start
        least = combine(show, Goal.FEWEST).universes
        for within in (least, (least + full.universes) // 2, full.universes - 1):
            start = perf_counter()
            found = combine(show, Goal.WITHIN, within=within)
            seconds = perf_counter() - start
            print(
                f"{FIXTURES} fixtures of {types} types, {MODES} modes each, within {within} of "
                f"{full.universes}: "
                f"{seconds:.2f} s (2 allowed), {seconds / plain:.1f} times everything full"
                f"{', proven' if found.proven else ', not proven'}"
            )


if __name__ == "__main__":
    main()
