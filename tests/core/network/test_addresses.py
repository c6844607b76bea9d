"""Planning addresses, against ``ipaddress``; the numbers of the converter, there and back."""

from __future__ import annotations

import ipaddress
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.box import Box, BoxKind, Given
from fence.core.model.errors import EditError
from fence.core.model.net import Net, Reserved
from fence.core.model.network import port_address
from fence.core.model.show import Show
from fence.core.network.addresses import plan_addresses, read_network
from fence.core.network.convert import COUNTINGS, network_facts, numbers_of, read_universe
from fence.demo import demo_show
from tests.core.network.nets import networks

NETWORKS = st.builds(
    lambda ip, prefix: ipaddress.ip_network(f"{ip}/{prefix}", strict=False),
    st.ip_addresses(v=4, network="10.0.0.0/8"),
    st.sampled_from([8, 16, 22, 24, 28, 29, 30]),
)


@given(networks(), NETWORKS, st.booleans())
def test_addresses_are_free_and_inside(
    show: Show, network: ipaddress.IPv4Network, anew: bool
) -> None:
    """None twice, none of the network's own, none that is kept for others; what will do stays; who
    is left is named."""
    plan = plan_addresses(show, network, anew=anew)
    left = set(plan.left)
    held = [box for box in plan.show.boxes if box.gives is Given.HAND and box.name not in left]
    for box in held:
        ip = ipaddress.ip_address(box.ip)
        assert ip in network
        assert ip not in (network.network_address, network.broadcast_address)
        assert not any(
            ipaddress.ip_address(r.first) <= ip <= ipaddress.ip_address(r.last)
            for r in show.net.reserved
        )
        assert box.prefix == network.prefixlen
    everyone = [box.ip for box in held] + [
        b.ip for b in show.boxes if b.gives is Given.SERVER and b.ip
    ]
    assert len({box.ip for box in held}) == len(held)
    assert all(everyone.count(box.ip) == 1 for box in held)
    two = (ipaddress.ip_address(f"10.0.0.{n}") for n in (2, 3))
    kept = sum(network.network_address < it < network.broadcast_address for it in two)
    room = network.num_addresses - 2 - kept * len(show.net.reserved)
    if left:
        assert len(held) <= room < len(show.boxes)
    if not anew:
        again = plan_addresses(plan.show, network)
        assert again.moved == ()
        assert again.show == plan.show
    assert [b.name for b in plan.show.boxes] == [b.name for b in show.boxes]


def test_a_box_keeps_the_end_of_its_address() -> None:
    """In the desk's network it has the last part that it had; with a clash the next free one."""
    plan = plan_addresses(demo_show(), read_network("192.168.40.0/24"))
    assert [(m.box, m.before, m.after, m.why) for m in plan.moved] == [
        ("rill dock", "192.168.4.12/24", "192.168.40.12/24", "was in another network")
    ]
    twins = tuple(Box(n, f"b{n}", ip="10.0.0.5") for n in (1, 2, 3))
    after = plan_addresses(replace(demo_show(), boxes=twins), read_network("10.0.0.0/24")).show
    assert [box.ip for box in after.boxes] == ["10.0.0.5", "10.0.0.6", "10.0.0.7"]


def test_a_kept_range_is_stepped_over_at_once() -> None:
    """Sixteen million kept addresses cost no more than one."""
    net = Net(reserved=(Reserved("10.0.0.1", "10.255.255.250", "others"),))
    boxes = (Box(1, "Desk", BoxKind.DESK), *(Box(n, f"b{n}") for n in range(2, 7)))
    plan = plan_addresses(Show("S", boxes=boxes, net=net), read_network("10.0.0.0/8"))
    assert [box.ip for box in plan.show.boxes] == [f"10.255.255.{n}" for n in range(251, 255)] + [
        "",
        "",
    ]
    assert plan.left == ("b5", "b6")
    assert "No room for b5 and b6" in plan.remarks[-1]


@pytest.mark.parametrize(
    "text",
    [
        "",
        "10.0.0.0",
        "10.0.0.0/31",
        "10.0.0.0/7",
        "10.0.0/24",
        "x/24",
        "10.0.0.0/255.0.255.0",
        "::/24",
    ],
)
def test_what_is_no_network(text: str) -> None:
    """It is named, with what is accepted."""
    with pytest.raises(EditError, match="Type an address and its mask"):
        read_network(text)


@given(st.integers(1, 63_999))
def test_a_universe_comes_back_from_every_counting(universe: int) -> None:
    """Each number that is shown is read as the same universe; Art-Net ends at 32767."""
    numbers = numbers_of(universe)
    told = {
        "fence": str(numbers.universe),
        "zero": str(numbers.zero),
        "artnet": numbers.artnet,
        "hex": numbers.hexadecimal,
        "group": numbers.group,
        "slot": str(numbers.last_slot),
    }
    assert told.keys() == COUNTINGS.keys()
    for counting, words in told.items():
        assert words is None or read_universe(words, counting) == universe
    assert (numbers.artnet is None) == (universe > 32_768)
    if numbers.flat is not None:
        net, sub, last = map(int, str(numbers.artnet).split("."))
        flat = port_address(Box(1, "b", counts_from=0), universe)
        assert (net * 256 + sub * 16 + last, numbers.flat) == (universe - 1, flat)
    high, low = map(int, numbers.group.split(".")[2:])
    assert high * 256 + low == universe


@pytest.mark.parametrize(
    ("typed", "counting"),
    [
        ("0", "fence"),
        ("64000", "fence"),
        ("-1", "zero"),
        ("0.16.0", "artnet"),
        ("128.0.0", "artnet"),
        ("8000", "hex"),
        ("g", "hex"),
        ("239.255.0.0", "group"),
        ("239.254.0.1", "group"),
        ("239.255.0.999", "group"),
        ("0", "slot"),
        ("", "fence"),
        ("٣", "fence"),
        ("9" * 60, "zero"),
    ],
)
def test_what_is_no_universe(typed: str, counting: str) -> None:
    """It is named, with what that counting accepts."""
    with pytest.raises(EditError, match="Use "):
        read_universe(typed, counting)


def test_what_an_address_and_its_mask_mean() -> None:
    """The room for boxes, and whether another address belongs to it."""
    facts = network_facts("192.168.40.77/255.255.255.192", "192.168.40.130")
    assert (facts.first, facts.last, facts.everybody, facts.room, facts.meets, facts.private) == (
        "192.168.40.65",
        "192.168.40.126",
        "192.168.40.127",
        62,
        False,
        True,
    )
    assert network_facts("2.0.0.1/8", "2.9.9.9").meets
    assert not network_facts("2.0.0.1/8").private
