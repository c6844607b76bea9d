"""Planning network addresses: free ones in the desk's network, none used twice, none that belongs
to the network."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from ipaddress import AddressValueError, IPv4Address, IPv4Network, NetmaskValueError

from fence.core.checks.network import bad_host
from fence.core.model.box import Box, Given
from fence.core.model.errors import EditError
from fence.core.model.network import PRIVATE, desk_of, hosts_of
from fence.core.model.show import Show
from fence.core.model.text import counted, joined, printable

USUAL = "192.168.40.0/24"
"""A network to begin with where nobody says another."""
ACCEPTED = (
    "Type an address and its mask, such as 192.168.40.0/24 or 10.1.0.0/255.255.0.0, with /8 to /30"
)


@dataclass(frozen=True, slots=True)
class Readdressed:
    """A box that gets another address, and why."""

    box: str
    before: str
    after: str
    why: str


@dataclass(frozen=True, slots=True)
class AddressPlan:
    """A show with its addresses planned. ``left`` names boxes for which there was no room."""

    show: Show
    network: IPv4Network
    moved: tuple[Readdressed, ...]
    left: tuple[str, ...]

    @property
    def remarks(self) -> tuple[str, ...]:
        """What is good to know of the plan."""
        told = [
            f"{self.network} has room for {counted(len(hosts_of(self.network)), 'node', 'nodes')}."
        ]
        if not any(self.network.subnet_of(IPv4Network(private)) for private in PRIVATE):
            told.append(
                f"It is none of the networks that anybody may use inside: {joined(PRIVATE)}."
            )
        if self.left:
            told.append(f"No room for {joined(self.left)}: take a wider network, or reserve less.")
        return tuple(told)


def read_network(text: str) -> IPv4Network:
    """A network as typed, from an address in it and the mask. ``EditError`` for what is none."""
    shown = printable(text.strip()[:40])
    try:
        found = IPv4Network(text.strip().replace(" ", ""), strict=False)
    except (AddressValueError, NetmaskValueError, ValueError):
        raise EditError(f"“{shown}” is not a network. {ACCEPTED}.") from None
    if not 8 <= found.prefixlen <= 30 or "/" not in text:
        raise EditError(f"“{shown}” has no mask that will do. {ACCEPTED}.")
    return found


def usual_network(show: Show) -> IPv4Network | None:
    """The network that boxes belong to: the desk's, else that of the first box with an address;
    None without any."""
    desk = desk_of(show)
    for box in (*((desk,) if desk else ()), *show.boxes):
        if box.interface and not bad_host(box):
            network: IPv4Network = box.interface.network
            return network
    return None


def next_free(show: Show, network: IPv4Network, taken: Collection[int], start: int) -> str | None:
    """The next address from ``start`` on (a number) that nobody has and nobody is kept for; from
    the beginning of the network where there is none behind. None where all are taken."""
    hosts = hosts_of(network)
    start = min(max(start, hosts[0]), hosts[-1])
    for first, last in ((start, hosts[-1]), (hosts[0], start - 1)):
        at = first
        while at <= last:
            kept = show.net.keeps(IPv4Address(at))
            if kept is not None:
                at = int(IPv4Address(kept.last)) + 1
            elif at in taken:
                at += 1
            else:
                return str(IPv4Address(at))
    return None


def taken_by(show: Show, *, without: int = 0) -> set[int]:
    """The addresses that boxes have, as numbers."""
    return {int(IPv4Address(box.ip)) for box in show.boxes if box.ip and box.id != without}


def fitting(show: Show, box: Box, network: IPv4Network, taken: Collection[int]) -> str | None:
    """The address for a box that comes nearest to what it has: the same end in another network,
    else the next free."""
    if box.ip:
        same = int(network.network_address) | (int(IPv4Address(box.ip)) & int(network.hostmask))
        return next_free(show, network, taken, same)
    inside = [number for number in taken if number in hosts_of(network)]
    return next_free(show, network, taken, max(inside, default=hosts_of(network)[0] - 1) + 1)


def new_address(show: Show, box: Box) -> tuple[str, int] | None:
    """Another address and prefix for a box, in the network of the others; None where there is none
    or no room."""
    network = usual_network(
        replace(show, boxes=tuple(held for held in show.boxes if held.id != box.id))
    )
    if network is None:
        network = (
            box.interface.network if box.interface and not bad_host(box) else IPv4Network(USUAL)
        )
    found = fitting(show, box, network, taken_by(show, without=box.id))
    return (found, network.prefixlen) if found else None


def plan_addresses(show: Show, network: IPv4Network, *, anew: bool = False) -> AddressPlan:
    """Give every box that is set by hand an address in ``network``; those that will do stay, unless
    ``anew``.

    Then all are numbered on from the first address, in the order of the boxes. The desk comes first
    either way.
    """
    order = sorted(show.boxes, key=lambda box: box.kind != "desk")
    set_by_hand = [box for box in order if box.gives is Given.HAND]
    taken = {int(IPv4Address(box.ip)) for box in order if box.gives is Given.SERVER and box.ip}
    kept: set[int] = set()
    for box in () if anew else set_by_hand:
        if not _trouble(show, box, network, taken):
            kept.add(box.id)
            taken.add(int(IPv4Address(box.ip)))
    boxes, moved, left = {box.id: box for box in show.boxes}, list[Readdressed](), list[str]()
    for box in set_by_hand:
        if box.id in kept:
            continue
        found = next_free(show, network, taken, 0) if anew else fitting(show, box, network, taken)
        if found is None:
            left.append(box.name)
            continue
        taken.add(int(IPv4Address(found)))
        after = replace(box, ip=found, prefix=network.prefixlen)
        boxes[box.id] = after
        if after != box:
            before = f"{box.ip}/{box.prefix}" if box.ip else "none"
            why = (
                "numbered on"
                if anew
                else _trouble(show, box, network, taken - {int(IPv4Address(found))})
            )
            moved.append(Readdressed(box.name, before, f"{found}/{network.prefixlen}", why))
    after_all = tuple(boxes[box.id] for box in show.boxes)
    planned = show if after_all == show.boxes else replace(show, boxes=after_all)
    return AddressPlan(planned, network, tuple(moved), tuple(left))


def _trouble(show: Show, box: Box, network: IPv4Network, taken: Collection[int]) -> str:
    """Why a box cannot keep its address; empty where it can."""
    if not box.ip:
        return "had none"
    ip = IPv4Address(box.ip)
    if ip not in network:
        return "was in another network"
    if int(ip) not in hosts_of(network):
        return "was the network’s own address"
    if int(ip) in taken:
        return "another node has it"
    if show.net.keeps(ip):
        return "was kept for others"
    return "had another mask" if box.prefix != network.prefixlen else ""
