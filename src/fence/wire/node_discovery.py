"""Looking for boxes and sources, for a few seconds, on one interface, when somebody asks for it."""

from __future__ import annotations

import errno
import selectors
import socket
import time
from collections.abc import Collection, Iterator, Sequence
from contextlib import ExitStack
from ipaddress import IPv4Address

from fence.core.model.errors import FenceError
from fence.core.model.network import group_of
from fence.core.network.found import Found, FoundBox, FoundPort, FoundSource
from fence.wire import artnet, sacn
from fence.wire.groups import group_socket
from fence.wire.interfaces import interfaces
from fence.wire.targets import Reach

SECONDS = 3.0
"""Boxes may take so long to answer [Art-Net 4]; sources are heard within."""
LONGEST = 30.0
MOST_PACKETS = 20_000
MOST_BOXES = 2000
MOST_SOURCES = 500
MOST_GROUPS = 400


class DiscoveryError(FenceError):
    """The network could not be looked at; the message says why."""


def everybody(bind: str) -> str:
    """The address that reaches all boxes in the network of an interface."""
    for interface in interfaces():
        if str(interface.ip) == bind:
            return str(interface.network.broadcast_address)
    return "127.255.255.255" if IPv4Address(bind).is_loopback else "255.255.255.255"


def look(
    bind: str,
    to: Sequence[str] = (),
    *,
    seconds: float = SECONDS,
    universes: Collection[int] | None = None,
) -> Found:
    """Ask who is there (``to`` single addresses, else all in the network of ``bind``) and listen
    for ``seconds``.

    With ``universes`` sources of sACN are listened for as well, on those universes and on the list
    that sources send. Raises ``DiscoveryError`` where the address is none of this machine,
    ``TargetError`` for one that nothing is sent to. Ends in time whatever arrives.
    """
    seconds = min(max(seconds, 0.0), LONGEST)
    reach = Reach.here()
    for target in to:
        reach.check(target)
    with ExitStack() as stack, selectors.DefaultSelector() as selector:
        notes: list[str] = []
        for listening in _artnet_sockets(bind, stack, notes):
            selector.register(listening, selectors.EVENT_READ, "artnet")
        asking = next(iter(selector.get_map().values())).fileobj
        assert isinstance(asking, socket.socket)
        for target in dict.fromkeys(to or [everybody(bind)]):
            try:
                asking.sendto(artnet.poll(), (target, artnet.PORT))
            except OSError as error:
                notes.append(f"{target} cannot be asked ({error.strerror}).")
        for listening in (
            _sacn_sockets(bind, universes, stack, notes) if universes is not None else ()
        ):
            selector.register(listening, selectors.EVENT_READ, "sacn")
        replies, heard = _collect(selector, time.monotonic() + seconds)
    return Found(tuple(_boxes(replies)), tuple(_sources(heard)), tuple(notes))


def check_bind(bind: str) -> None:
    """Raise ``DiscoveryError`` where an address is none of this machine."""
    with ExitStack() as stack:
        try:
            bound(bind, 0, stack)
        except OSError as error:
            if error.errno == errno.EADDRNOTAVAIL:
                raise DiscoveryError(
                    f"{bind} is not an address of this machine: choose one of those that it has."
                ) from None
            raise DiscoveryError(
                f"The network cannot be asked from {bind} ({error.strerror})."
            ) from None


def bound(bind: str, port: int, stack: ExitStack) -> socket.socket:
    """A socket at an address of this machine that may also ask everybody; it is closed with the
    stack."""
    opened = stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
    opened.setsockopt(socket.SOL_SOCKET, socket.SO_BROADCAST, 1)
    opened.setblocking(False)
    opened.bind((bind, port))
    return opened


def _artnet_sockets(bind: str, stack: ExitStack, notes: list[str]) -> Iterator[socket.socket]:
    """A socket to ask and be answered at, and one for answers that go to everybody."""
    try:
        yield bound(bind, artnet.PORT, stack)
    except OSError as error:
        if error.errno == errno.EADDRNOTAVAIL:
            raise DiscoveryError(
                f"{bind} is not an address of this machine: choose one of those that it has."
            ) from None
        if error.errno not in (errno.EADDRINUSE, errno.EACCES):
            raise DiscoveryError(
                f"The network cannot be asked from {bind} ({error.strerror})."
            ) from None
        notes.append(
            f"Another program uses port {artnet.PORT} here: nodes that answer only there are not "
            "heard."
        )
        yield bound(bind, 0, stack)
        return
    try:
        yield bound(everybody(bind), artnet.PORT, stack)
    except OSError:
        return


def _sacn_sockets(
    bind: str, universes: Collection[int], stack: ExitStack, notes: list[str]
) -> Iterator[socket.socket]:
    """Sockets in the groups of universes on one interface."""
    for number in (sacn.DISCOVERY_UNIVERSE, *sorted(universes)[: MOST_GROUPS - 1]):
        try:
            yield group_socket(group_of(number), sacn.PORT, bind, stack)
        except OSError as error:
            notes.append(f"Not all sources of sACN can be heard from {bind} ({error.strerror}).")
            return


Reply = tuple[artnet.PollReply, str]


def _collect(
    selector: selectors.BaseSelector, end: float
) -> tuple[list[Reply], list[tuple[sacn.Heard, str]]]:
    """All packets until the end, or until there are too many."""
    replies: list[Reply] = []
    heard: dict[tuple[object, ...], tuple[sacn.Heard, str]] = {}
    packets = 0
    while packets < MOST_PACKETS and (left := end - time.monotonic()) > 0:
        for key, _ in selector.select(left):
            assert isinstance(key.fileobj, socket.socket)
            try:
                data, (sender, _port) = key.fileobj.recvfrom(artnet.LARGEST + 1)
            except OSError:
                continue
            packets += 1
            if key.data == "artnet":
                reply = artnet.read_reply(data)
                if reply is not None and len(replies) < MOST_BOXES * 4:
                    replies.append((reply, sender))
            elif (source := sacn.read_source(data)) is not None and len(heard) < MOST_SOURCES * 100:
                heard.setdefault((source.cid, source.universes, source.priority), (source, sender))
    return replies, list(heard.values())


def _boxes(replies: Sequence[Reply]) -> Iterator[FoundBox]:
    """Boxes from their answers: those of one address and name belong together, in the order of
    their index."""
    held: dict[tuple[str, str], dict[int, artnet.PollReply]] = {}
    for reply, sender in replies:
        ip = reply.bind or (reply.ip if reply.ip != "0.0.0.0" else sender)
        held.setdefault((ip, reply.short_name), {}).setdefault(reply.index, reply)
    for (ip, name), pages in list(held.items())[:MOST_BOXES]:
        ports = [port for _, page in sorted(pages.items()) for port in page.ports]
        numbered = tuple(
            FoundPort(n, port.use, port.address, port.sacn) for n, port in enumerate(ports, 1)
        )
        long_name = next((page.long_name for page in pages.values() if page.long_name), "")
        yield FoundBox(ip, name, long_name, numbered)


def _sources(heard: Sequence[tuple[sacn.Heard, str]]) -> Iterator[FoundSource]:
    """Sources from their packets, by CID."""
    by_cid: dict[str, list[tuple[sacn.Heard, str]]] = {}
    for source, sender in heard:
        by_cid.setdefault(source.cid, []).append((source, sender))
    for cid, told in list(by_cid.items())[:MOST_SOURCES]:
        universes = sorted({universe for source, _ in told for universe in source.universes})
        priorities = [source.priority for source, _ in told if source.priority is not None]
        name = next((source.name for source, _ in told if source.name), "")
        yield FoundSource(cid, name, told[0][1], tuple(universes), max(priorities, default=None))
