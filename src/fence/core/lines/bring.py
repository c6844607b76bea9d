"""What to bring: the pieces of cable that make up every cable run, what the store lacks, and what
stands between them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from fence.core.lines.pieces import Cut, Made, make_up
from fence.core.model.line import Cable, Device, Plug, Stop
from fence.core.model.show import Show
from fence.core.model.stock import Item, Kind
from fence.core.model.wiring import Wiring, name_of, needs_adapter, plugs_in, plugs_out, wiring_of

USUAL = (Plug.FIVE, Plug.FIVE)
"""Plugs of a cable run of which nothing else is known."""
Sort = tuple[Cable, tuple[Plug, Plug]]
"""Cables that are alike but for their length; plugs in no order."""


@dataclass(frozen=True, slots=True)
class CableRun:
    """A cable run as it is laid: its mark, from where to where, what it is made of, its length in
    metres, and the pieces from the store (None where its length is not known or no stock is)."""

    mark: str
    line: str
    begin: str
    end: str
    cable: Cable
    ends: tuple[Plug, Plug]
    length: float | None
    made: Made | None = None

    @property
    def sort(self) -> Sort:
        """Which cables it can be made of."""
        return sort_of(self.cable, self.ends)

    @property
    def plugs(self) -> str:
        """Its plugs in words."""
        return plug_words(self.sort[1])

    @property
    def words(self) -> str:
        """What it is made of, such as ``10 + 2``; empty where that is not known."""
        return " + ".join(f"{piece:g}" for piece in self.made.pieces) if self.made else ""


@dataclass(frozen=True, slots=True)
class Pulled:
    """Cables of one sort and length: how many are pulled, and how many of them the store lacks."""

    cable: Cable
    plugs: str
    length: float
    count: int
    lacking: int


@dataclass(frozen=True, slots=True)
class PullList:
    """What to bring. ``cables`` counts pieces by sort and length; ``unknown`` are cable runs
    without a length; ``pieces`` what stands between the cables, each with how many and how many the
    store lacks. ``proven`` when no other choice from the store has fewer joints or less surplus;
    ``stocked`` when a stock is known at all."""

    runs: tuple[CableRun, ...]
    cables: tuple[Pulled, ...]
    unknown: int
    metres: float
    surplus: float
    joints: int
    pieces: tuple[tuple[str, int, int], ...]
    stocked: bool
    proven: bool


def sort_of(cable: Cable, plugs: tuple[Plug, Plug]) -> Sort:
    """The sort of a cable: turned round it is the same."""
    one, other = sorted(plugs)
    return cable, (one, other)


def plug_words(plugs: tuple[Plug, Plug]) -> str:
    """Plugs in words, such as ``5-pin`` or ``3-pin to 5-pin``."""
    return " to ".join(dict.fromkeys(map(str, plugs)))


def pull_list(show: Show) -> PullList:
    """The list for all lines of a show."""
    runs: list[CableRun] = []
    pieces: Counter[str] = Counter()
    for number, line in enumerate(show.lines):
        wiring = wiring_of(line)
        runs += _cable_runs(show, wiring, _letter(number))
        for stop in line.stops:
            if stop.device is not None and stop.device is not Device.ADAPTER:
                what = str(stop.device)
                if stop.device is Device.SPLITTER:
                    what = (
                        f"splitter, {stop.outputs or '?'} outputs" if stop.boosted else "passive Y"
                    )
                pieces[what] += 1
            if stop.device is Device.ADAPTER or needs_adapter(show, wiring, stop):
                plugs = needs_adapter(show, wiring, stop) or _bridged(show, wiring, stop)
                pieces[
                    f"adapter {plugs[0]} to {plugs[1]}" if plugs else stop.label or "adapter"
                ] += 1
    stocked = any(item.kind is Kind.CABLE for item in show.stock)
    cuts = _cuts(show, runs) if stocked else {}
    made: dict[str, Made] = {}
    for sort, cut in cuts.items():
        laid = [run for run in runs if run.sort == sort and run.length]
        made.update({run.mark: piece for run, piece in zip(laid, cut.runs, strict=True)})
    runs = [replace(run, made=made.get(run.mark)) for run in runs]
    joints = sum(cut.joints for cut in cuts.values())
    if joints:
        pieces["coupler"] += joints
    return PullList(
        tuple(runs),
        _cables(runs),
        sum(1 for run in runs if run.length is None),
        sum(run.length or 0 for run in runs),
        sum(cut.surplus for cut in cuts.values()),
        joints,
        tuple((what, count, _lacking(show, what, count)) for what, count in sorted(pieces.items())),
        stocked,
        all(cut.proven for cut in cuts.values()),
    )


def _cuts(show: Show, runs: Sequence[CableRun]) -> dict[Sort, Cut]:
    sorts = dict.fromkeys(run.sort for run in runs if run.length)
    return {
        sort: made_of(show, [run.length for run in runs if run.sort == sort and run.length], *sort)
        for sort in sorts
    }


def made_of(show: Show, runs: Sequence[float], cable: Cable, plugs: tuple[Plug, Plug]) -> Cut:
    """Cable runs of one sort of cable made up from the stock."""
    wanted = sort_of(cable, plugs)
    stock: Counter[float] = Counter()
    for item in show.stock:
        if (
            item.kind is Kind.CABLE
            and item.length is not None
            and sort_of(item.cable, item.plugs) == wanted
        ):
            stock[item.length] += item.count
    return make_up(runs, stock)


def _cables(runs: Sequence[CableRun]) -> tuple[Pulled, ...]:
    counts: Counter[tuple[Cable, str, float]] = Counter()
    lacking: Counter[tuple[Cable, str, float]] = Counter()
    for run in runs:
        for piece in run.made.pieces if run.made else filter(None, (run.length,)):
            counts[run.cable, run.plugs, piece] += 1
            lacking[run.cable, run.plugs, piece] += bool(run.made and run.made.rented)
    found = [Pulled(*key, count, lacking[key]) for key, count in counts.items()]
    return tuple(sorted(found, key=lambda pulled: (pulled.cable, pulled.plugs, -pulled.length)))


def _lacking(show: Show, what: str, count: int) -> int:
    """How many of a device the store lacks; 0 where the stock says nothing of its kind."""
    kind = what.split(",")[0].split(" ")[0]
    held = [item for item in show.stock if item.kind == kind]
    return max(0, count - _held(held)) if held else 0


def _held(items: Sequence[Item]) -> int:
    return sum(item.count for item in items)


def _cable_runs(show: Show, wiring: Wiring, letter: str) -> list[CableRun]:
    found = []
    for number, stop in enumerate(wiring.behind(None), 1):
        before = wiring.by_id.get(stop.after) if stop.after is not None else None
        on_plug = before is not None and before.device is Device.ADAPTER and stop.length == 0
        if stop.cable is Cable.WIRELESS or stop.terminates or on_plug:
            continue
        begin = name_of(show, before) if before else "source"
        ends = stop.plugs or _plugs(show, before, stop)
        mark = f"{letter}{number}"
        found.append(
            CableRun(
                mark, wiring.line.name, begin, name_of(show, stop), stop.cable, ends, stop.length
            )
        )
    return found


def _plugs(show: Show, before: Stop | None, stop: Stop) -> tuple[Plug, Plug]:
    """The plugs of a cable run of which nothing is said: those that the stop before gives out; an
    adapter meets the other."""
    given = (
        plugs_out(show, before)
        if before is not None and before.device is not Device.ADAPTER
        else frozenset[str]()
    )
    if before is not None and before.device is Device.ADAPTER:
        given = plugs_in(show, stop)
    for plug in (Plug.FIVE, Plug.THREE, Plug.RJ45):
        if str(plug) in given:
            return plug, plug
    return USUAL


def _bridged(show: Show, wiring: Wiring, stop: Stop) -> tuple[str, str] | None:
    """The plugs between which an adapter of a line stands; None where they are the same or not
    known."""
    before = wiring.by_id.get(stop.after) if stop.after is not None else None
    following = wiring.children.get(stop.id, [])
    comes = stop.plugs[1] if stop.plugs else _plugs(show, before, stop)[1]
    taken = plugs_in(show, following[0]) if following else frozenset[str]()
    return (str(comes), min(taken)) if taken and str(comes) not in taken else None


def _letter(number: int) -> str:
    """A, B … Z, AA, AB …"""
    letters = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(65 + rest) + letters
    return letters
