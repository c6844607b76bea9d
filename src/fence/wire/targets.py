"""Whom Fence sends to: devices in private networks and in those that this machine is part of, and
nobody else.

What leaves the machine is looked at here, whoever asks for it: a page, the command line, the
process that sends.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from ipaddress import AddressValueError, IPv4Address, IPv4Interface, IPv4Network

from fence.core.model.box import BoxKind, Way
from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.wire.interfaces import interfaces

PRIVATE = tuple(
    map(
        IPv4Network,
        ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8"),
    )
)
"""Private, link-local and loopback networks [RFC 1918, RFC 3927, RFC 1122]."""
EVERYBODY = IPv4Address("255.255.255.255")


class TargetError(FenceError):
    """An address that nothing is sent to; the message says why, and what is accepted."""


@dataclass(frozen=True)
class Reach:
    """What may be sent to, as this machine stands in its networks."""

    attached: tuple[IPv4Interface, ...]

    @classmethod
    def here(cls) -> Reach:
        """As it stands now."""
        return cls(tuple(interfaces()))

    def check(self, to: str, *, broadcasts: Sequence[str] = ()) -> str:
        """Give an address back; ``TargetError`` for one that is nobody's, everybody's, or far away.

        ``broadcasts`` are addresses of everybody in a network that were chosen on purpose.
        """
        try:
            address = IPv4Address(to)
        except AddressValueError:
            raise TargetError(
                f"“{to[:40]}” is not an IPv4 address. Use one such as 192.168.40.11."
            ) from None
        if address.is_multicast:
            raise TargetError(
                f"{to} is a multicast group. Each universe of sACN has its own: choose "
                "“multicast” instead."
            )
        if address == EVERYBODY:
            raise TargetError(
                f"{to} is everybody on every network: type the address of one device."
            )
        for network in self._networks():
            if address == network.broadcast_address and to not in broadcasts:
                raise TargetError(
                    f"{to} is everybody in {network}: type the address of one device. A node of "
                    "the plan that is fed "
                    "by broadcast, in a network of this machine, makes this address one of those "
                    "to choose."
                )
            if address == network.network_address:
                raise TargetError(
                    f"{to} is the name of the network {network}, and no device in it."
                )
        if not any(address in network for network in (*PRIVATE, *self._networks())):
            raise TargetError(
                f"{to} is outside. Use private addresses (10., 172.16. to 172.31., "
                "192.168., 169.254.), this "
                "machine (127.) and the networks that it is part of."
            )
        return to

    def broadcasts_of(self, show: Show) -> dict[str, list[str]]:
        """The addresses of everybody that the plan chooses, with the nodes that do: fed by
        broadcast, and in a network that this machine is part of."""
        found: dict[str, list[str]] = {}
        for box in show.boxes:
            if box.kind is BoxKind.NODE and box.way is Way.BROADCAST and box.ip:
                for network in self._networks():
                    if IPv4Address(box.ip) in network:
                        found.setdefault(str(network.broadcast_address), []).append(box.name)
        return found

    def _networks(self) -> list[IPv4Network]:
        """The networks of this machine that have an address of everybody."""
        return [held.network for held in self.attached if held.network.prefixlen < 31]
