"""The boxes of a show file as they would answer on the network: a process of its own, on loopback,
to practise with.

It answers ArtPoll for every box of the show, and tells like a desk which universes it sends over
sACN. Faults can be put on boxes, as they happen in the field.
"""

from __future__ import annotations

import selectors
import socket
import threading
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from enum import StrEnum
from ipaddress import IPv4Address, IPv4Network
from uuid import NAMESPACE_DNS, uuid5

from fence.core.model.address import MAX_UNIVERSE
from fence.core.model.box import Box, BoxKind, Port, Protocol, Use
from fence.core.model.errors import FenceError
from fence.core.model.network import HIGHEST_PORT_ADDRESS, group_of, number_on, said_by, senders_of
from fence.core.model.show import Show
from fence.core.model.text import joined, whole_number
from fence.standins.rdm_devices import RdmFault, RdmLines
from fence.wire import artnet, sacn

EVERYBODY = "127.255.255.255"
TELLS_EVERY = 1.0
"""Seconds between the lists of what a desk sends. Real sources take ten [ANSI E1.31]; nobody wants
to wait here."""
TICK = 0.2


class Fault(StrEnum):
    """What can be wrong with a box."""

    WRONG_UNIVERSE = "wrong-universe"
    COUNTS_FROM_0 = "counts-from-0"
    COUNTS_FROM_1 = "counts-from-1"
    OTHER_NETWORK = "other-network"
    SILENT = "silent"
    TELLS_NOTHING = "tells-nothing"


@dataclass(frozen=True, slots=True)
class Put:
    """A fault at a box, by its name, and at one port of it, or at all (None)."""

    fault: Fault
    box: str
    port: int | None = None


def read_fault(show: Show, text: str) -> Put:
    """A fault as typed: ``wrong-universe=palm dock:4``, ``silent=rill dock``. ``FenceError`` says
    what is accepted."""
    name, _, place = text.partition("=")
    box, _, number = (
        place.rpartition(":")
        if whole_number(place.rpartition(":")[2]) is not None
        else (place, "", "")
    )
    known = [held.name for held in show.boxes]
    if name not in set(Fault):
        raise FenceError(f"“{name[:40]}” is not a fault. Use {', '.join(Fault)}.")
    if box not in known:
        accepted = (
            "Use a fault such as silent=NODE or wrong-universe=NODE:4, with one of "
            f"{joined(known, most=8)}"
        )
        raise FenceError(f"There is no node “{box[:60]}”. {accepted}.")
    return Put(Fault(name), box, whole_number(number) if number else None)


def answers(show: Show, faults: Sequence[Put] = ()) -> dict[int, list[artnet.PollReply]]:
    """What each box of a show answers when it is asked who is there, by its id. One that is silent
    is left out."""
    found: dict[int, list[artnet.PollReply]] = {}
    for box in show.boxes:
        here = [put for put in faults if put.box == box.name]
        kinds = {put.fault for put in here}
        if Fault.SILENT in kinds or (box.kind is BoxKind.DESK and not box.ports):
            continue
        ip = box.ip or "127.0.0.1"
        if Fault.OTHER_NETWORK in kinds:
            ip = _elsewhere(box)
        ports = (
            ()
            if Fault.TELLS_NOTHING in kinds
            else tuple(_told(box, port, here) for port in box.ports)
        )
        whole = artnet.PollReply(ip, box.name, box.model or box.name, ports)
        found[box.id] = artnet.replies_for(whole)
    return found


def _elsewhere(box: Box) -> str:
    """The same end of the address in another network."""
    if not box.ip:
        return "2.0.0.2"
    network = IPv4Network(f"{box.ip}/{box.prefix}", strict=False)
    flipped = int(IPv4Address(box.ip)) ^ (1 << (32 - network.prefixlen))
    return str(IPv4Address(flipped))


def _told(box: Box, port: Port, faults: Sequence[Put]) -> artnet.ReplyPort:
    """A port as the box tells it: what it is set to, which is what the show file says of it, with
    the faults on it."""
    number = said_by(box, port)
    if number is None and port.universe is not None:
        number = number_on(box, port.universe)
    if number is None or port.use is Use.OFF:
        return artnet.ReplyPort(Use.OFF)
    for put in faults:
        if put.port in (None, port.number):
            number += _shift(box, put.fault)
    return artnet.ReplyPort(
        port.use, min(max(number, 0), HIGHEST_PORT_ADDRESS), box.protocol is Protocol.SACN
    )


def _carried(box: Box, faults: Sequence[Put]) -> dict[int, int]:
    """The universes whose fixtures hang on the ports of a box, by the Port-Addresses that it
    says."""
    return {
        told.address: port.universe
        for port in box.ports
        if port.universe is not None and (told := _told(box, port, faults)).use is Use.OUT
    }


def _shift(box: Box, fault: Fault) -> int:
    """By how much a fault moves the number of a port."""
    if fault is Fault.WRONG_UNIVERSE:
        return 7
    if fault is Fault.COUNTS_FROM_0:
        return -1 if box.counts_from == 1 else 0
    if fault is Fault.COUNTS_FROM_1:
        return 1 if box.counts_from == 0 else 0
    return 0


class BoxesStandIn:
    """Answers on loopback until it is stopped. Boxes with an address in 127.0.0.0/8 answer at their
    own."""

    def __init__(
        self,
        show: Show,
        bind: str | None = None,
        faults: Sequence[Put] = (),
        talk: Sequence[RdmFault] = (),
    ) -> None:
        self.show, self.replies = show, answers(show, faults)
        self.talking = RdmLines(show, talk)
        self.carried = {
            box.id: _carried(box, [put for put in faults if put.box == box.name])
            for box in show.boxes
        }
        self.bind = bind
        self.stopped = threading.Event()

    def serve(self, ready: threading.Event | None = None) -> None:
        """Open the sockets, say that it is ready, answer until ``stop``. ``FenceError`` where an
        address is taken."""
        with ExitStack() as stack, selectors.DefaultSelector() as selector:
            for address, boxes in self._places().items():
                selector.register(_opened(address, stack), selectors.EVENT_READ, boxes)
            speaking = next(iter(selector.get_map().values())).fileobj
            assert isinstance(speaking, socket.socket)
            if ready is not None:
                ready.set()
            next_list = 0.0
            while not self.stopped.is_set():
                for key, _ in selector.select(TICK):
                    assert isinstance(key.fileobj, socket.socket)
                    self._answer(key.fileobj, key.data)
                if time.monotonic() >= next_list:
                    next_list = time.monotonic() + TELLS_EVERY
                    self._tell(speaking)

    def stop(self) -> None:
        """Let it end within a moment."""
        self.stopped.set()

    def _places(self) -> Mapping[str, list[int]]:
        """Where it listens, and which boxes answer there."""
        everyone = list(self.replies)
        if self.bind is not None:
            return {self.bind: everyone}
        places: dict[str, list[int]] = {EVERYBODY: everyone}
        for box in self.show.boxes:
            if box.id in self.replies and box.ip and IPv4Address(box.ip).is_loopback:
                places.setdefault(box.ip, []).append(box.id)
        if len(places) == 1:
            places["127.0.0.1"] = everyone
        return places

    def _answer(self, listening: socket.socket, boxes: Sequence[int]) -> None:
        try:
            data, sender = listening.recvfrom(artnet.LARGEST + 1)
        except OSError:
            return
        if not artnet.is_poll(data):
            self._talk(listening, data, sender, boxes)
            return
        for box_id in boxes:
            for reply in self.replies[box_id]:
                try:
                    listening.sendto(artnet.build_reply(reply), sender)
                except OSError:
                    return

    def _talk(
        self, listening: socket.socket, data: bytes, sender: tuple[str, int], boxes: Sequence[int]
    ) -> None:
        """Pass on what is said to fixtures, and what they answer."""
        found = {
            address: universe
            for box_id in boxes
            for address, universe in self.carried[box_id].items()
        }
        for packet in self.talking.take(data, found.get) or ():
            try:
                listening.sendto(packet, sender)
            except OSError:
                return

    def _tell(self, speaking: socket.socket) -> None:
        """Say like the show's desks which universes they send, on loopback only."""
        group = group_of(sacn.DISCOVERY_UNIVERSE)
        speaking.setsockopt(
            socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton("127.0.0.1")
        )
        for packet in _lists(self.show):
            try:
                speaking.sendto(packet, (group, sacn.PORT))
            except OSError:
                return


def _lists(show: Show) -> Iterator[bytes]:
    sent = senders_of(show)
    for box in show.boxes:
        mine = [u for u, boxes in sent.items() if box in boxes and u <= MAX_UNIVERSE]
        if box.kind is BoxKind.DESK and mine and (box.protocol is Protocol.SACN or box.both):
            yield sacn.build_list(uuid5(NAMESPACE_DNS, f"{show.name} {box.id}"), box.name, mine)


def _opened(address: str, stack: ExitStack) -> socket.socket:
    opened = stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
    opened.setsockopt(socket.SOL_SOCKET, socket.SO_BROADCAST, 1)
    opened.setblocking(False)
    try:
        opened.bind((address, artnet.PORT))
    except OSError as error:
        raise FenceError(
            f"{address}, port {artnet.PORT}, cannot be used ({error.strerror})."
        ) from None
    return opened
