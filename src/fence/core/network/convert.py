"""Universe numbers in any counting to any other, and what an address and its mask mean."""

from __future__ import annotations

import re
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Network

from fence.core.model.address import MAX_UNIVERSE, SLOTS
from fence.core.model.box import as_ip
from fence.core.model.errors import EditError
from fence.core.model.network import HIGHEST_PORT_ADDRESS, PRIVATE, artnet_words, group_of, hosts_of
from fence.core.model.text import printable
from fence.core.network.addresses import read_network

COUNTINGS = {
    "fence": "from 1, as Fence does",
    "zero": "from 0",
    "artnet": "Art-Net net.sub.universe",
    "hex": "Art-Net, hexadecimal",
    "group": "sACN group 239.255.x.y",
    "slot": "slots counted on (absolute)",
}


@dataclass(frozen=True, slots=True)
class Numbers:
    """One universe in every counting; None where a counting has no number for it."""

    universe: int
    zero: int
    flat: int | None
    artnet: str | None
    hexadecimal: str | None
    group: str
    first_slot: int
    last_slot: int


def read_universe(text: str, counting: str) -> int:
    """Fence's number of a universe typed in another counting. ``EditError`` says what is
    accepted."""
    words = text.strip()
    found = _READERS[counting](words) if counting in _READERS else None
    if found is None or not 1 <= found <= MAX_UNIVERSE:
        shown = printable(words[:40])
        how = COUNTINGS.get(counting, "from 1")
        raise EditError(
            f"“{shown}” is not a universe counted {how}. Use "
            f"{_ACCEPTED.get(counting, '1 to 63999')}."
        )
    return found


def _whole(words: str) -> int | None:
    return int(words) if re.fullmatch(r"[0-9]{1,9}", words) else None


def _fence(words: str) -> int | None:
    return _whole(words[1:] if words[:1] in "uU" and words else words)


def _zero(words: str) -> int | None:
    number = _whole(words)
    return None if number is None else number + 1


def _artnet(words: str) -> int | None:
    match = re.fullmatch(r"([0-9]{1,3})[./: ]([0-9]{1,2})[./: ]([0-9]{1,2})", words)
    if match is None:
        return _zero(words) if (_whole(words) or 0) <= HIGHEST_PORT_ADDRESS else None
    net, sub, universe = map(int, match.groups())
    return (
        (net << 8 | sub << 4 | universe) + 1 if net < 128 and sub < 16 and universe < 16 else None
    )


def _hex(words: str) -> int | None:
    match = re.fullmatch(r"(?:0[xX]|\$)?([0-9a-fA-F]{1,4})[hH]?", words)
    number = int(match[1], 16) if match else HIGHEST_PORT_ADDRESS + 1
    return number + 1 if number <= HIGHEST_PORT_ADDRESS else None


def _group(words: str) -> int | None:
    match = re.fullmatch(r"239\.255\.([0-9]{1,3})\.([0-9]{1,3})", words)
    if match is None or int(match[1]) > 255 or int(match[2]) > 255:
        return None
    return int(match[1]) * 256 + int(match[2])


def _slot(words: str) -> int | None:
    number = _whole(words)
    return None if not number else (number - 1) // SLOTS + 1


_READERS = {
    "fence": _fence,
    "zero": _zero,
    "artnet": _artnet,
    "hex": _hex,
    "group": _group,
    "slot": _slot,
}
_ACCEPTED = {
    "zero": "0 to 63998",
    "artnet": "0.0.0 to 127.15.15, or 0 to 32767",
    "hex": "0 to 7FFF",
    "group": "239.255.0.1 to 239.255.249.255",
    "slot": "1 to 32767488",
}


def numbers_of(universe: int) -> Numbers:
    """A universe in every counting. Art-Net is told as boxes that count from 0 have it."""
    address = universe - 1
    fits = address <= HIGHEST_PORT_ADDRESS
    return Numbers(
        universe,
        address,
        address if fits else None,
        artnet_words(address) if fits else None,
        f"{address:04X}" if fits else None,
        group_of(universe),
        address * SLOTS + 1,
        universe * SLOTS,
    )


@dataclass(frozen=True, slots=True)
class NetworkFacts:
    """What an address with its mask means. ``meets`` says whether another address is in the same
    network."""

    network: IPv4Network
    netmask: str
    first: str
    last: str
    everybody: str
    room: int
    private: bool
    meets: bool | None


def network_facts(text: str, other: str = "") -> NetworkFacts:
    """The facts of a network as typed, and whether ``other`` belongs to it."""
    network = read_network(text)
    hosts = hosts_of(network)
    return NetworkFacts(
        network,
        str(network.netmask),
        str(IPv4Address(hosts[0])),
        str(IPv4Address(hosts[-1])),
        str(network.broadcast_address),
        len(hosts),
        any(network.subnet_of(IPv4Network(private)) for private in PRIVATE),
        as_ip(other) in network if other.strip() else None,
    )
