"""A position by cable beside the same position by wireless: what it takes, what is carried, what it
costs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fence.core.edits.cabling import add_line, insert, set_cable_runs, terminate
from fence.core.edits.cabling import chain as hang
from fence.core.lines.bring import PullList, plug_words, pull_list, sort_of
from fence.core.lines.measure import SHORTEST, Tape, cable_runs_of
from fence.core.model.errors import EditError
from fence.core.model.line import Device
from fence.core.model.show import Show
from fence.core.model.stock import Kind
from fence.core.model.wiring import wireless_only


@dataclass(frozen=True, slots=True)
class Takes:
    """What one way takes: each thing with its number, metres of cable, pieces to carry, and the
    price where all of it is known (None else)."""

    things: tuple[tuple[str, int], ...]
    metres: float | None
    price: float | None

    @property
    def pieces(self) -> int:
        """Everything that is carried."""
        return sum(number for _, number in self.things)


@dataclass(frozen=True, slots=True)
class Beside:
    """Both ways for the fixtures at a position. ``unknown`` cable runs have no length yet;
    ``only_wireless`` fixtures take no cable at all and are left out on its side."""

    position: str
    fixtures: int
    by_cable: Takes
    by_wireless: Takes
    unknown: int
    only_wireless: int


def beside(show: Show, position: str) -> Beside:
    """Compare. By cable: one chain from the desk in rig order. By wireless: a transmitter at the
    desk, a receiver at every fixture that has none built in, on a battery pack each. Raises
    ``EditError`` for a position without fixtures on channels."""
    here = [f for f in show.fixtures if f.position == position and any(show.footprints_of(f))]
    if not here:
        raise EditError(f"Nothing at “{position[:60]}” takes a signal.")
    airy = [f for f in here if (p := show.profile_of(f)) and wireless_only(p)]
    boxes = sum(not (profile and profile.wireless) for profile in map(show.profile_of, here))
    chain = _chained(show, [fixture.id for fixture in here if fixture not in airy])
    transmitters = show.with_lines(())
    for number, universe in enumerate(
        sorted({u for fixture in here for u in show.universes_of(fixture)}), 1
    ):
        transmitters = insert(add_line(transmitters, universe=universe), number, Device.TRANSMITTER)
        transmitters = set_cable_runs(transmitters, number, {1: float(SHORTEST)})
    more = {Kind.RECEIVER: boxes, Kind.PACK: boxes}
    return Beside(
        position,
        len(here),
        _takes(chain),
        _takes(transmitters, more),
        pull_list(chain).unknown,
        len(airy),
    )


def _chained(show: Show, fixtures: Sequence[int]) -> Show:
    """The show with nothing but these fixtures on one line, lengths as they are reckoned."""
    show = show.with_lines(())
    if not fixtures:
        return show
    show = terminate(hang(add_line(show), 1, fixtures), 1)
    return set_cable_runs(show, 1, cable_runs_of(Tape(show), show.line(1)))


def _takes(show: Show, more: Mapping[Kind, int] | None = None) -> Takes:
    """What the lines of a show take from its stock, ``more`` beside them."""
    pull = pull_list(show)
    cables = sum(held.count for held in pull.cables) + pull.unknown
    counts: Counter[Kind] = Counter({Kind.CABLE: cables})
    for what, number, _ in pull.pieces:
        counts[Kind(what.split(",")[0].split(" ")[0])] += number
    counts.update(more or {})
    prices: dict[Kind, float | None] = {
        i.kind: i.price for i in show.stock if i.kind is not Kind.CABLE
    }
    total: float | None = _cables_price(show, pull)
    for kind, number in counts.items():
        price = prices.get(kind)
        if number and kind is not Kind.CABLE:
            total = None if price is None or total is None else total + price * number
    things = tuple((str(kind), number) for kind, number in counts.items() if number)
    return Takes(things, None if pull.unknown else pull.metres, total)


def _cables_price(show: Show, pull: PullList) -> float | None:
    """The price of all cables; None where one is of unknown length, not in the stock, or has no
    price."""
    prices = {
        (item.cable, plug_words(sort_of(item.cable, item.plugs)[1]), item.length): item.price
        for item in show.stock
        if item.kind is Kind.CABLE
    }
    total = 0.0
    for held in pull.cables:
        price = prices.get((held.cable, held.plugs, held.length))
        if price is None or held.lacking:
            return None
        total += price * held.count
    return None if pull.unknown else total
