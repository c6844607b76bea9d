"""Whom Fence sends to, on both sides of each border."""

from __future__ import annotations

from dataclasses import replace
from ipaddress import IPv4Interface

import pytest

from fence.core import edits
from fence.core.model.box import Box, Way
from fence.core.model.show import Show
from fence.wire.targets import Reach, TargetError

REACH = Reach(
    (
        IPv4Interface("127.0.0.1/8"),
        IPv4Interface("2.0.0.10/29"),
        IPv4Interface("10.9.8.7/32"),
        IPv4Interface("172.20.5.5/31"),
    )
)


@pytest.mark.parametrize(
    "to",
    [
        "10.0.0.1",
        "10.255.255.254",
        "172.16.0.1",
        "172.31.255.254",
        "192.168.0.1",
        "192.168.255.254",
        "169.254.0.1",
        "169.254.255.254",
        "127.0.0.1",
        "127.255.255.254",
        "2.0.0.9",
        "2.0.0.14",
        "10.9.8.7",
        "172.20.5.4",
    ],
)
def test_who_is_near(to: str) -> None:
    """Private, link-local, loopback, and networks of this machine, up to their ends."""
    assert REACH.check(to) == to


@pytest.mark.parametrize(
    ("to", "words"),
    [
        ("9.255.255.255", "outside"),
        ("11.0.0.0", "outside"),
        ("172.15.255.255", "outside"),
        ("172.32.0.0", "outside"),
        ("192.167.255.255", "outside"),
        ("192.169.0.0", "outside"),
        ("169.253.255.255", "outside"),
        ("169.255.0.0", "outside"),
        ("126.255.255.255", "outside"),
        ("128.0.0.0", "outside"),
        ("2.0.0.7", "outside"),
        ("2.0.0.16", "outside"),
        ("8.8.8.8", "outside"),
        ("0.0.0.0", "outside"),
        ("240.0.0.1", "outside"),
        ("2.0.0.8", "name of the network"),
        ("2.0.0.15", "everybody in 2.0.0.8/29"),
        ("127.255.255.255", "everybody in"),
        ("255.255.255.255", "every network"),
        ("224.0.0.0", "multicast group"),
        ("239.255.255.255", "multicast group"),
        ("", "not an IPv4 address"),
        ("10.0.0", "not an IPv4 address"),
        ("::1", "not an IPv4 address"),
        ("10.0.0.1\n", "not an IPv4"),
    ],
)
def test_who_is_not(to: str, words: str) -> None:
    """One step beyond, everybody, groups, and what is not an address."""
    with pytest.raises(TargetError, match=words):
        REACH.check(to)


def test_everybody_only_where_a_node_is_fed_so() -> None:
    """The plan chooses it, for a network of this machine; not for one elsewhere, not for a desk,
    not everywhere."""
    show = Show("Barn")
    made: list[Box] = []
    for name, ip, way in (
        ("A", "2.0.0.9", Way.BROADCAST),
        ("B", "2.0.0.11", Way.UNICAST),
        ("C", "192.168.7.7", Way.BROADCAST),
        ("D", "", Way.BROADCAST),
    ):
        show = edits.add_box(show, name)
        made.append(replace(show.boxes[-1], ip=ip, way=way))
        show = edits.put_box(show, made[-1])
    chosen = REACH.broadcasts_of(show)
    assert chosen == {"2.0.0.15": ["A"]}
    assert REACH.check("2.0.0.15", broadcasts=tuple(chosen)) == "2.0.0.15"
    with pytest.raises(TargetError):
        REACH.check("127.255.255.255", broadcasts=tuple(chosen))
    with pytest.raises(TargetError):
        REACH.check("255.255.255.255", broadcasts=("255.255.255.255",))
