"""A position by cable beside the same position by air: what it takes, what is carried, what it costs."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from fence.core.lines.bring import made_of
from fence.core.lines.measure import AT_THE_DESK, Tape
from fence.core.words.errors import EditError
from fence.core.words.line import Cable, Plug
from fence.core.words.show import Show
from fence.core.words.stock import Kind
from fence.core.words.wiring import plugs_of


@dataclass(frozen=True, slots=True)
class Takes:
    """What one way takes: each thing with its number, metres of cable, pieces to carry, and the price where all of it
    is known (None else)."""

    things: tuple[tuple[str, int], ...]
    metres: float | None
    price: float | None

    @property
    def pieces(self) -> int:
        """Everything that is carried."""
        return sum(number for _, number in self.things)


@dataclass(frozen=True, slots=True)
class Beside:
    """Both ways for the fixtures at a position. ``unknown`` hops have no length yet;
    ``only_air`` fixtures take no cable at all and are left out on its side."""

    position: str
    fixtures: int
    by_cable: Takes
    by_air: Takes
    unknown: int
    only_air: int


def beside(show: Show, position: str) -> Beside:
    """Compare. By cable: one chain from the desk in rig order. By air: a sender at the desk, a receiver at every
    fixture that has none built in, on a battery pack each. Raises ``EditError`` for a position without fixtures on
    channels.
    """
    tape = Tape(show)
    here = [f for f in show.fixtures if f.position == position and any(show.footprints_of(f))]
    if not here:
        raise EditError(f"Nothing at “{position[:60]}” takes a signal.")
    airy = [f for f in here if (p := show.profile_of(f)) and p.wireless and not plugs_of(p.connectors_in)]
    wired = [fixture for fixture in here if fixture not in airy]
    spots = [AT_THE_DESK, *(tape.spots[fixture.id] for fixture in wired)]
    hops = [tape.hop(one, other) for one, other in itertools.pairwise(spots)]
    known = [float(metres) for metres in hops if metres is not None]
    profiles = [show.profile_of(fixture) for fixture in wired]
    ins = [plugs_of(profile.connectors_in) if profile else frozenset[str]() for profile in profiles]
    outs = [plugs_of(profile.connectors_out) if profile else frozenset[str]() for profile in profiles]
    comes = [frozenset({str(Plug.FIVE)}), *outs]
    adapters = sum(bool(a and b and not a & b) for a, b in zip(comes, ins, strict=False))
    cut = made_of(show, known, Cable.DMX, (Plug.FIVE, Plug.FIVE))
    cables = sum(len(made.pieces) for made in cut.hops) + len(hops) - len(known)
    universes = len({fixture.universe for fixture in here})
    by_cable = _takes(
        show,
        [("cable", cables), ("adapter", adapters), ("terminator", 1)],
        sum(known) if len(known) == len(hops) else None,
        _cables_price(show, [piece for made in cut.hops for piece in made.pieces]) if len(known) == len(hops) else None,
    )
    boxes = sum(not (profile and profile.wireless) for profile in map(show.profile_of, here))
    by_air = _takes(
        show,
        [("sender", universes), ("cable", universes), ("receiver", boxes), ("battery pack", boxes), ("terminator", 0)],
        float(universes),
        0.0,
    )
    return Beside(position, len(here), by_cable, by_air, len(hops) - len(known), len(airy))


def _takes(show: Show, things: Sequence[tuple[str, int]], metres: float | None, cables: float | None) -> Takes:
    prices: dict[Kind, float] = {item.kind: item.price for item in show.stock if item.price is not None}
    total = cables
    for name, number in things:
        if number and name in set(Kind) and name != Kind.CABLE:
            price = prices.get(Kind(name))
            total = None if price is None or total is None else total + price * number
    return Takes(tuple((name, number) for name, number in things if number), metres, total)


def _cables_price(show: Show, pieces: Sequence[float]) -> float | None:
    prices = {item.length: item.price for item in show.stock if item.kind is Kind.CABLE and item.cable is Cable.DMX}
    found = [prices.get(piece) for piece in pieces]
    return None if None in found else sum(price or 0 for price in found)
