"""Listening to multicast groups, and to nothing else."""

from __future__ import annotations

import socket
from contextlib import ExitStack, suppress

MULTICAST_ALL = 49
"""The option of Linux by which a socket takes only groups that it joined itself, on the interface
that it joined on."""


def group_socket(group: str, port: int, interface: str, stack: ExitStack) -> socket.socket:
    """A socket in a group on one interface of this machine; closed with the stack. Raises
    ``OSError``.

    It is bound to the group's own address: one bound to all would take what other programs send to
    each other on the same port, and keep it from them.
    """
    opened = stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
    opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    opened.setblocking(False)
    with suppress(OSError):
        opened.setsockopt(socket.IPPROTO_IP, MULTICAST_ALL, 0)
    opened.bind((group, port))
    opened.setsockopt(
        socket.IPPROTO_IP,
        socket.IP_ADD_MEMBERSHIP,
        socket.inet_aton(group) + socket.inet_aton(interface),
    )
    return opened
