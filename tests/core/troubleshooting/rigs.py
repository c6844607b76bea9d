"""Random rigs to hide faults on: 8 to 120 fixtures of shipped types, in 1 to 6 universes, with
splitters, nodes and wireless."""

from __future__ import annotations

from random import Random

from fence.core.model.box import Box, BoxKind, Port, Protocol
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Device, Line, Plug, Source, Stop
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile
from fence.core.model.show import Position, Show, Universe
from fence.core.simulation.bringing import expected
from fence.library import shipped_profiles

PLACES = {"Rill": 0.0, "Canopy Walk": 6.5, "Palm House": 3.0, "Gatehouse": None}
LINK = (Plug.WIRELESS, Plug.WIRELESS)


def random_rig(chance: Random) -> Show:
    """One of them."""
    types = [one for one in shipped_profiles() if any(_shines(one, m.name) for m in one.modes)]
    kinds = chance.sample(types, chance.randint(1, min(4, len(types))))
    left, universes = chance.randint(8, 120), chance.randint(1, 6)
    fixtures: list[Fixture] = []
    lines: list[Line] = []
    for universe in range(1, universes + 1):
        here = left if universe == universes else max(1, left // (universes - universe + 1))
        made = _fixtures(chance, kinds, universe, min(here, 40), len(fixtures))
        fixtures += made
        left -= len(made)
        lines.append(_line(chance, universe, made))
    used = {fixture.profile for fixture in fixtures}
    return Show(
        "Random",
        tuple(fixtures),
        tuple(one for one in kinds if one.id in used),
        tuple(Universe(number) for number in range(1, universes + 1)),
        tuple(Position(name, height=height) for name, height in PLACES.items()),
        next_id=len(fixtures) + 1,
        lines=tuple(lines),
        boxes=tuple(_boxes(chance, universes)),
    )


def _shines(profile: Profile, mode: str) -> bool:
    found = next(one for one in profile.modes if one.name == mode)
    return len(found.parts) == 1 and 0 < found.footprint <= 40 and expected(found).lit


def _fixtures(
    chance: Random, kinds: list[Profile], universe: int, count: int, known: int
) -> list[Fixture]:
    """Alike ones beside each other, back to back."""
    found: list[Fixture] = []
    start = 1
    while len(found) < count:
        profile = chance.choice(kinds)
        name = chance.choice([m.name for m in profile.modes if _shines(profile, m.name)])
        mode = next(one for one in profile.modes if one.name == name)
        place = chance.choice(list(PLACES))
        for _ in range(chance.randint(1, 8)):
            if len(found) >= count or start + mode.footprint > 512:
                break
            number = known + len(found) + 1
            found.append(
                Fixture(
                    number,
                    f"{place.split(maxsplit=1)[0]} {number}",
                    profile.id,
                    mode.name,
                    position=place,
                    patch=(Patch(universe, start),),
                )
            )
            start += mode.footprint
        if start + 40 > 512:
            break
    return found


def _line(chance: Random, universe: int, fixtures: list[Fixture]) -> Line:
    """A chain, a splitter with a chain on each output, or a transmitter with all that hear it."""
    stops: list[Stop] = []

    def add(after: int | None, **what: object) -> int:
        stops.append(Stop(len(stops) + 1, after, **what))  # type: ignore[arg-type]
        return len(stops)

    ids = [fixture.id for fixture in fixtures]
    shape = chance.choice(("chain", "chain", "splitter", "wireless"))
    if shape == "wireless":
        sender = add(None, device=Device.TRANSMITTER, label=f"Link {universe}", outputs=64)
        for one in ids:
            add(sender, fixture=one, cable=Cable.WIRELESS, plugs=LINK)
    elif shape == "splitter":
        first = ids[: chance.randint(0, min(3, len(ids) - 1))]
        last: int | None = None
        for one in first:
            last = add(last, fixture=one)
        splitter = add(last, device=Device.SPLITTER, label=f"Fork {universe}", outputs=4)
        rest = ids[len(first) :]
        outputs = chance.randint(1, min(4, len(rest)))
        for output in range(outputs):
            behind: int = splitter
            for place, one in enumerate(rest[output::outputs]):
                at = {"output": output + 1} if not place else {}
                behind = add(behind, fixture=one, **at)
            add(behind, device=Device.TERMINATOR)
    else:
        last = None
        for one in ids:
            last = add(last, fixture=one)
        add(last, device=Device.TERMINATOR)
    port = (universe - 1) % 4 + 1
    return Line(
        universe,
        f"Line {universe}",
        universe,
        Source(2 + (universe - 1) // 4, port),
        "",
        tuple(stops),
    )


def _boxes(chance: Random, universes: int) -> list[Box]:
    """A desk, and nodes of four ports that count from 0 or from 1."""
    found = [Box(1, "Desk", BoxKind.DESK, "10.0.0.1")]
    for number in range(-(-universes // 4)):
        ports = [
            Port(port + 1, number * 4 + port + 1) for port in range(min(4, universes - number * 4))
        ]
        counts = chance.randint(0, 1)
        protocol = chance.choice((Protocol.SACN, Protocol.ARTNET))
        name, address = f"Node {number + 1}", f"10.0.0.{number + 2}"
        found.append(
            Box(
                2 + number,
                name,
                ip=address,
                protocol=protocol,
                counts_from=counts,
                ports=tuple(ports),
            )
        )
    return found
