"""All drills: what each is called, and its questions from a rig."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from random import Random

from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.practising.drills import (
    addresses,
    charts,
    colours,
    displays,
    levels,
    loads,
    modes,
    networks,
    off_by_one,
    plugs,
    switches,
    universes,
)
from fence.core.practising.question import LEVELS, Question

Maker = Callable[[Show, Random, int], Question | None]


@dataclass(frozen=True, slots=True)
class Drill:
    """A drill: its key, what it is called, what it practises, and how a question is made; None
    where a rig has nothing to ask about."""

    key: str
    title: str
    about: str
    make: Maker


DRILLS = (
    Drill("next-start", "Next start address", "of a run of mixed fixtures", addresses.next_start),
    Drill("room", "What is left", "in a universe, and whether it fits", addresses.room_left),
    Drill("switches-read", "Read DIP switches", "upside down and from 0, too", switches.read),
    Drill("switches-set", "Set DIP switches", "for an address", switches.put),
    Drill("display", "Displays from below", "what stands on them", displays.seen_from_below),
    Drill("universes", "Universe numbers", "counted from 0 and from 1", universes.counting),
    Drill("networks", "Same network?", "by address and mask", networks.same_network),
    Drill("levels", "Levels", "percent, 0 to 255, 16 bit", levels.scales),
    Drill("modes", "Which mode", "has what is needed on few channels", modes.which_mode),
    Drill("plugs", "Plugs and pins", "which pin, which adapter", plugs.plugs),
    Drill("loads", "Loads and terminators", "how many, and where they end", loads.loads),
    Drill("colours", "Mixing colours", "with the emitters there are", colours.mixing),
    Drill("charts", "Read a chart", "which slot, which level", charts.reading),
    Drill("off-by-one", "Off by one", "what a fixture does then", off_by_one.off_by_one),
)
BY_KEY = {drill.key: drill for drill in DRILLS}
HIGHEST_SEED = 10**9


def ask(key: str, level: int, seed: int, rig: Show, spare: Show) -> Question:
    """A question of a drill, the same for the same seed and rig; from the spare rig where the own
    one has nothing to ask about. ``EditError`` for a drill or a level that there is not."""
    drill = BY_KEY.get(key)
    if drill is None or level not in LEVELS or not 0 <= seed < HIGHEST_SEED:
        raise EditError(
            f"There is no such drill. Use one of {', '.join(BY_KEY)}, at level 1 to {LEVELS[-1]}."
        )
    for one in (rig, spare):
        made = drill.make(one, Random(f"{key} {level} {seed}"), level)
        if made is not None:
            return made
    raise EditError(f"{drill.title}: the rig has nothing to ask about.")
