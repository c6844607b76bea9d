"""What was found on the network, held against the plan box by box and port by port, and taken over
where wanted."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from ipaddress import IPv4Address

from fence.core.edits import boxes as edits
from fence.core.model.address import MAX_UNIVERSE
from fence.core.model.box import Box, BoxKind, Numbering, Port, Protocol, Typed, Use
from fence.core.model.network import number_on, senders_of, sheet_of, universe_said
from fence.core.model.record import NOBODY, Witness
from fence.core.model.show import Show
from fence.core.model.text import counted, joined

SHORT_NAME = 17
"""Letters of a name that an answer has room for [Art-Net 4]."""


@dataclass(frozen=True, slots=True)
class FoundPort:
    """A port as its box tells it: what it is for, and the number that it is set to."""

    number: int
    use: Use
    says: int = 0
    sacn: bool = False


@dataclass(frozen=True, slots=True)
class FoundBox:
    """A box that answered. One without ports told nothing of its universes."""

    ip: str
    name: str
    long_name: str = ""
    ports: tuple[FoundPort, ...] = ()

    @property
    def tells(self) -> bool:
        """Whether it says which universes it has."""
        return any(port.use is not Use.OFF for port in self.ports)

    @property
    def title(self) -> str:
        """What to call it."""
        return self.name or self.long_name or self.ip


@dataclass(frozen=True, slots=True)
class FoundSource:
    """A source of sACN that was heard; ``priority`` where a frame of it was heard too."""

    cid: str
    name: str
    ip: str
    universes: tuple[int, ...]
    priority: int | None = None


@dataclass(frozen=True, slots=True)
class Found:
    """All that was found in one look. ``notes`` are what was in the way, in words."""

    boxes: tuple[FoundBox, ...] = ()
    sources: tuple[FoundSource, ...] = ()
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Beside:
    """A box of the plan beside what was found, or either alone. ``differs`` says what is not as
    planned."""

    box: Box | None
    found: FoundBox | None
    differs: tuple[str, ...] = ()
    wrong_ports: tuple[int, ...] = ()


def compare(show: Show, found: Sequence[FoundBox]) -> list[Beside]:
    """Every box of the plan and every one that was found: those that differ first, then missing,
    strange, right."""
    left = list(found)
    beside: list[Beside] = []
    pairs: dict[int, FoundBox] = {}
    for fits in (_same_address, _same_name):
        for box in show.boxes:
            taken = (
                None if box.id in pairs else next((held for held in left if fits(box, held)), None)
            )
            if taken is not None:
                left.remove(taken)
                pairs[box.id] = taken
    for box in show.boxes:
        held = pairs.get(box.id)
        if held is not None:
            said = list(_differences(show, box, held))
            beside.append(
                Beside(box, held, tuple(words for words, _ in said), tuple(n for _, n in said if n))
            )
        elif box.kind is BoxKind.NODE:
            beside.append(Beside(box, None, ("did not answer",)))
    beside += [Beside(None, held, ("not in the plan",)) for held in left]
    return sorted(beside, key=lambda b: (not b.differs, b.found is None, b.box is None))


def _same_address(box: Box, found: FoundBox) -> bool:
    return found.ip == box.ip


def _same_name(box: Box, found: FoundBox) -> bool:
    short = box.name.encode()[:SHORT_NAME].decode(errors="ignore").strip()
    return found.name.casefold() == short.casefold()


def _differences(show: Show, box: Box, found: FoundBox) -> Iterator[tuple[str, int]]:
    """What is not as planned, with the port that it is about, 0 for the box."""
    if box.ip and found.ip != box.ip:
        words = f"it is at {found.ip}, planned is {box.ip}"
        if box.interface and IPv4Address(found.ip) not in box.interface.network:
            words += f", another network (/{box.prefix})"
        yield words, 0
    if not found.tells:
        yield "it answers without telling its universes: what was planned by hand stays", 0
        return
    told = {port.number: port for port in found.ports}
    for port in box.ports:
        seen = told.get(port.number)
        if seen is None:
            yield f"port {port.number} is not there", port.number
        elif words := _port_differs(box, port, seen):
            yield words, port.number
    for seen in found.ports:
        if box.port(seen.number) is None and seen.use is not Use.OFF:
            yield f"port {seen.number} is not in the plan; it says {seen.says}", seen.number


def _port_differs(box: Box, port: Port, seen: FoundPort) -> str:
    if port.universe is None or port.use is Use.OFF:
        return ""
    if seen.use is not port.use:
        does = {Use.OUT: "gives out", Use.IN: "takes in", Use.OFF: "is off"}[seen.use]
        return f"port {port.number} {does}; U{port.universe} is planned there"
    wanted = number_on(box, port.universe)
    if seen.says != wanted:
        really = universe_said(box, seen.says)
        gives = f"U{really}" if 1 <= really <= MAX_UNIVERSE else "no universe"
        return (
            f"port {port.number} says {seen.says}, planned is {wanted}: it gives {gives} in "
            f"place of U{port.universe}"
        )
    return ""


def note_found(
    show: Show, box_id: int, found: FoundBox, by: Witness = NOBODY, *, as_plan: bool = False
) -> Show:
    """Take over what a box says: its address and the number of each port, as read back; ``as_plan``
    also plans its universes as they are there. What it does not tell stays as it was planned by
    hand."""
    box = show.box(box_id)
    told = (
        {port.number: port for port in found.ports if port.use is not Use.OFF}
        if found.tells
        else {}
    )
    ports = tuple(_noted(box, port, told.get(port.number), as_plan=as_plan) for port in box.ports)
    if as_plan:
        ports += tuple(
            _new_port(box, seen) for number, seen in told.items() if box.port(number) is None
        )
    after = replace(box, ip=found.ip, ports=ports)
    if found.tells:
        after = replace(after, read=Typed(sheet_of(after), by))
    return edits.put_box(show, after)


def _noted(box: Box, port: Port, seen: FoundPort | None, *, as_plan: bool) -> Port:
    if seen is None:
        return port
    spare = port.universe is None and not as_plan
    noted = replace(port, says=None if spare else seen.says)
    return _planned(box, noted, seen) if as_plan else noted


def _planned(box: Box, port: Port, seen: FoundPort) -> Port:
    universe = universe_said(box, seen.says)
    return replace(port, universe=universe if 1 <= universe <= MAX_UNIVERSE else None, use=seen.use)


def _new_port(box: Box, seen: FoundPort) -> Port:
    return _planned(box, Port(seen.number, says=seen.says), seen)


def add_found(show: Show, found: FoundBox, by: Witness = NOBODY) -> Show:
    """Add a box that was found and is not in the plan, as it says it is; it is taken to count from
    0."""
    sacn = any(port.sacn for port in found.ports)
    show = edits.add_box(show, found.title[:60])
    fresh = replace(
        show.boxes[-1],
        counts_from=0,
        model=found.long_name[:200] if found.long_name != found.name else "",
        protocol=Protocol.SACN
        if sacn
        else show.boxes[-1].protocol
        if not found.tells
        else Protocol.ARTNET,
        numbering=Numbering.EACH,
    )
    show = edits.put_box(show, fresh)
    return note_found(show, fresh.id, found, by, as_plan=True)


def compare_sources(show: Show, sources: Sequence[FoundSource]) -> list[str]:
    """What the sources that were heard mean for the plan, in sentences."""
    told = []
    heard: dict[int, list[FoundSource]] = {}
    for source in sources:
        for universe in source.universes:
            heard.setdefault(universe, []).append(source)
    for universe, several in heard.items():
        if len(several) > 1 and universe in show.carried:
            names = joined(
                [
                    f"{s.name or s.ip}{'' if s.priority is None else f' ({s.priority})'}"
                    for s in several
                ]
            )
            told.append(f"U{universe} is sent by {counted(len(several), 'source')}: {names}.")
    if sources and (lost := _unheard(show, heard)):
        told.append(f"Not heard: {joined([f'U{universe}' for universe in lost])}.")
    return told


def _unheard(show: Show, heard: Collection[int]) -> list[int]:
    sent = senders_of(show) or show.carried
    return [universe for universe in show.carried if universe in sent and universe not in heard]
