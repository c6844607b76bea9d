"""How many devices a driver feeds, and where terminators belong."""

from __future__ import annotations

from math import floor
from random import Random

from fence.core.checks.lines import MOST_LOADS
from fence.core.model.fixture import Fixture
from fence.core.model.line import Device, Line, Stop
from fence.core.model.profile import Profile
from fence.core.model.show import Show
from fence.core.model.text import counted, joined
from fence.core.model.wiring import load_of, wiring_of
from fence.core.practising.question import Kind, Question, question

SPLITTER = "Fork"


def loads(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: how many more a driver feeds; level 2: the same with other unit loads; level 3:
    where terminators belong on a line with a splitter."""
    if level == 3:
        return _terminators(chance)
    types = list(rig.profiles) or [Profile("a", "", "Lamp", ())]
    light = [one for one in types if one.unit_load not in (0, 1)] or types
    profile = chance.choice(types) if level == 1 else chance.choice(light)
    each = 1.0 if level == 1 else profile.unit_load or 1.0
    other = chance.choice(types)
    count = chance.randint(1, 24)
    stands = count * (1.0 if level == 1 else other.unit_load)
    if stands > MOST_LOADS:
        count = max(1, int(MOST_LOADS // (other.unit_load or 1)))
        stands = count * other.unit_load
    left = MOST_LOADS - stands
    right = floor(left / each + 1e-9)
    facts = [] if level == 1 else [f"{other.title}: {other.unit_load:g} unit loads each"]
    if level == 2 and profile.title != other.title:
        facts.append(f"{profile.title}: {each:g} unit loads each")
    if level == 1:
        facts.append("Each is one unit load.")
    return question(
        f"{counted(count, 'fixture')} ({other.title}) hang on one driver. How many "
        f"{profile.title} may still hang behind them without a splitter?",
        Kind.NUMBER,
        str(right),
        f"One driver feeds {MOST_LOADS} unit loads: {MOST_LOADS} − {stands:g} = {left:g}, "
        f"divided by {each:g}: {right}",
        [
            (right + 1, f"one too many: a driver feeds {MOST_LOADS} unit loads"),
            (MOST_LOADS - count, "count unit loads, not fixtures"),
            (MOST_LOADS, "those that hang there already count as well"),
            (512 - count, "512 is slots, not devices on a cable"),
        ],
        facts=facts,
    )


def line_for(chance: Random) -> tuple[Show, Line]:
    """A line from a source over some fixtures to a splitter with two or three branches, without
    terminators."""
    stops: list[Stop] = []
    fixtures: list[Fixture] = []

    def fixture_behind(after: int | None, output: int | None = None) -> int:
        number = len(fixtures) + 1
        fixtures.append(Fixture(number, f"Lamp {number}", "a", "m"))
        stops.append(Stop(len(stops) + 1, after, fixture=number, output=output))
        return stops[-1].id

    at: int | None = None
    for _ in range(chance.randint(0, 3)):
        at = fixture_behind(at)
    stops.append(Stop(len(stops) + 1, at, device=Device.SPLITTER, label=SPLITTER, boosted=True))
    splitter = stops[-1].id
    for output in range(1, chance.randint(2, 3) + 1):
        at = fixture_behind(splitter, output)
        for _ in range(chance.randint(0, 2)):
            at = fixture_behind(at)
    line = Line(1, "Line", 1, stops=tuple(stops))
    return Show("Line", fixtures=tuple(fixtures), lines=(line,)), line


def ends_of(line: Line) -> list[int]:
    """The fixtures behind which a terminator belongs."""
    return [stop.fixture or 0 for stop in wiring_of(line).open_ends]


def _terminators(chance: Random) -> Question:
    show, line = line_for(chance)
    ends = ends_of(line)
    branches = []
    wiring = wiring_of(line)
    for section in wiring.sections:
        names = [
            show.fixture(stop.fixture).label for stop in section.stops if stop.fixture is not None
        ]
        begin = "Desk" if section.driver is None else f"{SPLITTER}, output {section.output}"
        chain = [begin, *names, *([SPLITTER] if section.driver is None else [])]
        branches.append(" → ".join(chain))
    right = joined([show.fixture(one).label for one in ends], most=9)
    last = show.fixtures[-1].label
    every = joined([*(show.fixture(one).label for one in ends), SPLITTER], most=9)
    wrong = {
        last: "each output of a splitter is a line of its own, with an end of its own",
        every: f"{SPLITTER} ends its input itself",
        SPLITTER: f"{SPLITTER} ends its input itself; its outputs are open",
        "nowhere: a splitter needs none": "its outputs are lines of their own, with ends",
    }
    choices = [right, *(one for one in wrong if one != right)]
    chance.shuffle(choices)
    loads_told = ", ".join(f"{load_of(show, section):g}" for section in wiring.sections)
    return question(
        "Behind which devices does a terminator belong?",
        Kind.CHOICE,
        right,
        f"Each driven section has an end: {right}. (Unit loads section by section: {loads_told}.)",
        list(wrong.items()),
        choices=choices,
        facts=branches,
    )
