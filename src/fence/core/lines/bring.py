"""What to bring: the cable of every hop by type and length, and the pieces between them."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from fence.core.words.line import Cable, Device
from fence.core.words.show import Show
from fence.core.words.wiring import Wiring, name_of, needs_adapter, wiring_of


@dataclass(frozen=True, slots=True)
class Hop:
    """A hop as it is laid: its mark, from where to where, what it is made of, its length in metres."""

    mark: str
    line: str
    begin: str
    end: str
    cable: Cable
    plugs: str
    length: float | None


@dataclass(frozen=True, slots=True)
class PullList:
    """What to bring. ``cables`` counts hops by cable, plugs and length; ``unknown`` are hops without a length."""

    hops: tuple[Hop, ...]
    cables: tuple[tuple[Cable, str, float, int], ...]
    unknown: int
    metres: float
    pieces: tuple[tuple[str, int], ...]


def pull_list(show: Show) -> PullList:
    """The list for all lines of a show."""
    hops: list[Hop] = []
    pieces: Counter[str] = Counter()
    for number, line in enumerate(show.lines):
        wiring = wiring_of(line)
        hops += _hops(show, wiring, _letter(number))
        for stop in line.stops:
            if stop.device is not None and stop.device is not Device.ADAPTER:
                what = str(stop.device)
                if stop.device is Device.SPLITTER:
                    what = f"splitter, {stop.outputs or '?'} outputs" if stop.boosted else "passive Y"
                pieces[what] += 1
            if stop.device is Device.ADAPTER or needs_adapter(show, wiring, stop):
                plugs = needs_adapter(show, wiring, stop)
                pieces[f"adapter {plugs[0]} to {plugs[1]}" if plugs else stop.label or "adapter"] += 1
    laid = [hop for hop in hops if hop.length]
    cables = Counter((hop.cable, hop.plugs, hop.length or 0.0) for hop in laid)
    return PullList(
        tuple(hops),
        tuple((*key, count) for key, count in sorted(cables.items(), key=lambda entry: (entry[0][0], -entry[0][2]))),
        sum(1 for hop in hops if hop.length is None),
        sum(hop.length or 0 for hop in laid),
        tuple(sorted(pieces.items())),
    )


def _hops(show: Show, wiring: Wiring, letter: str) -> list[Hop]:
    found = []
    for number, stop in enumerate(wiring.behind(None), 1):
        if stop.cable is Cable.AIR or stop.terminates:
            continue
        before = wiring.by_id.get(stop.after) if stop.after is not None else None
        begin = name_of(show, before) if before else "source"
        plugs = " to ".join(dict.fromkeys(map(str, stop.plugs))) if stop.plugs else "5-pin"
        found.append(
            Hop(f"{letter}{number}", wiring.line.name, begin, name_of(show, stop), stop.cable, plugs, stop.length)
        )
    return found


def _letter(number: int) -> str:
    """A, B … Z, AA, AB …"""
    letters = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(65 + rest) + letters
    return letters
