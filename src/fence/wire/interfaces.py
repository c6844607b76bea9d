"""The addresses of this machine in its networks."""

from __future__ import annotations

from ipaddress import IPv4Interface

import ifaddr


def interfaces() -> list[IPv4Interface]:
    """The IPv4 addresses of this machine with their networks."""
    found = []
    for adapter in ifaddr.get_adapters():
        for address in adapter.ips:
            if address.is_IPv4:
                found.append(IPv4Interface(f"{address.ip}/{address.network_prefix}"))
    return sorted(set(found))
