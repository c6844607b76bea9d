"""A colour matched for 100 fixtures of ten types (50 ms allowed); beside it the coarse search over
a grid of levels."""

from __future__ import annotations

from itertools import product
from statistics import median
from time import perf_counter

from fence.core.simulation.colour_matching import MODEL, distance, match, of_kelvin, of_rgb
from fence.library import shipped_profiles

TARGETS = [
    of_kelvin(2700),
    of_kelvin(5600),
    of_rgb(255, 90, 20),
    of_rgb(60, 40, 255),
    of_rgb(120, 255, 90),
]
STEPS = (0, 64, 128, 192, 255)


def main() -> None:
    """Print the figures."""
    modes = [
        mode for profile in shipped_profiles() for mode in profile.modes if mode.parts[0].channels
    ]
    hundred = [modes[place % len(modes)] for place in range(100)]
    spent, grid = [], []
    for target in TARGETS:
        begin = perf_counter()
        for mode in hundred:
            match(mode, target)
        spent.append(1000 * (perf_counter() - begin))
        emitters = list(MODEL)[:4]
        begin = perf_counter()
        min(
            distance(dict(zip(emitters, levels, strict=True)), target)
            for levels in product(STEPS, repeat=4)
        )
        grid.append(1000 * (perf_counter() - begin))
    print(f"100 fixtures: median {median(spent):.0f} ms, worst {max(spent):.0f} ms (50 allowed)")
    print(f"the grid for one fixture of four emitters: {median(grid):.0f} ms")


if __name__ == "__main__":
    main()
