"""How long fixture types and scenes take in and out, beside what the libraries of the standards
take for reading the same files alone.

    python bench/standard_files.py
"""

from __future__ import annotations

import sys
from dataclasses import replace
from io import BytesIO
from pathlib import Path
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parents[1]))

import pygdtf
import pymvr

from fence.core.edits.arriving import take_over
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Channel, Function, Mode, Part, Profile, Range
from fence.core.model.scene import Place
from fence.core.model.show import Position, Show
from fence.formats.gdtf.reading import read_gdtf
from fence.formats.gdtf.writing import write_gdtf
from fence.formats.mvr import SPOKEN_OF, read_mvr, write_mvr
from fence.library import shipped_profiles

CELLS, RANGES = 125, 8


def wide() -> Profile:
    """A type of 500 channels in cells, each with ranges."""
    width = 256 // RANGES
    ranges = tuple(Range(at * width, (at + 1) * width - 1, f"part {at}") for at in range(RANGES))
    channels = [
        Channel(function, cell=cell, ranges=ranges)
        for cell in range(1, CELLS + 1)
        for function in (Function.RED, Function.GREEN, Function.BLUE, Function.WHITE)
    ]
    return Profile("wide", "Sedge", "Wide", (Mode("500", (Part(500, tuple(channels)),)),))


def rig(count: int) -> Show:
    """So many fixtures at a hundred positions."""
    profile = shipped_profiles()[0]
    mode = min(profile.modes, key=lambda one: one.footprint)
    each = 512 // mode.footprint
    fixtures = tuple(
        Fixture(
            number,
            f"F{number}",
            profile.id,
            mode.name,
            number,
            f"Bar {number % 100}",
            (Patch(1 + number // each, 1 + number % each * mode.footprint),),
            at=Place(number % 200, number // 200, 6),
        )
        for number in range(1, count + 1)
    )
    places = tuple(Position(f"Bar {at}") for at in range(100))
    return Show("Wide", fixtures, (profile,), positions=places, next_id=count + 1)


def timed(what: str, act: object, beside: float | None = None) -> float:
    began = perf_counter()
    act()  # type: ignore[operator]
    took = perf_counter() - began
    ratio = f", {took / beside:.1f} times the library alone" if beside else ""
    print(f"{what}: {took * 1000:.0f} ms{ratio}")
    return took


def main() -> None:
    """Print all."""
    held = write_gdtf(wide())
    timed("a type of 500 channels, written", lambda: write_gdtf(wide()))
    library = timed("the same, read by the library", lambda: pygdtf.FixtureType(BytesIO(held)))
    timed("the same, read", lambda: read_gdtf(held), library)
    show = rig(20_000)
    scene = write_mvr(show, "k")
    print(f"a scene of 20,000 fixtures: {len(scene) / 2**20:.1f} MB")
    timed("written", lambda: write_mvr(show, "k"))
    library = timed(
        "read by the library",
        lambda: pymvr.GeneralSceneDescription(BytesIO(scene)),  # type: ignore[arg-type]
    )
    timed("read", lambda: read_mvr(scene, known=show.profiles), library)
    coming = read_mvr(scene, known=show.profiles).show
    moved = replace(coming, fixtures=coming.fixtures[:19_000])
    timed("taken over into the rig", lambda: take_over(show, moved, SPOKEN_OF, key="k"))


if __name__ == "__main__":
    main()
