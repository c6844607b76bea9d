"""Whether two devices are in the same network, by their mask."""

from __future__ import annotations

from ipaddress import IPv4Address, IPv4Interface, IPv4Network
from random import Random

from fence.core.model.show import Show
from fence.core.practising.question import Kind, Question, question

YES, NO = "yes, they hear each other", "no, not without a router"
BASES = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "2.0.0.0/8")
BITS = {1: (24,), 2: (8, 16, 24), 3: (20, 21, 22, 23, 25, 26, 27, 28)}


def same_network(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: masks of 24 bits; level 2: whole numbers of the mask; level 3: any mask."""
    bits = chance.choice(BITS[level])
    base = IPv4Network(chance.choice([one for one in BASES if int(one.split("/")[1]) <= bits]))
    size = 2 ** (32 - bits)
    first = int(base.network_address) + size * chance.randrange(2 ** (bits - base.prefixlen))
    one = first + chance.randint(1, size - 2)
    meets = chance.random() < 0.5
    if meets:
        other = first + 1 + (one - first + chance.randint(1, size - 3) - 1) % (size - 2)
    else:
        away = chance.choice((-1, 1)) if bits > base.prefixlen else 1
        other = one + away * size
        if IPv4Address(other) not in base:
            other = one - away * size
        if IPv4Address(other) not in base:
            other = one + size
    mask = IPv4Network((first, bits)).netmask
    mine, theirs = IPv4Interface((one, bits)), IPv4Interface((other, bits))
    same = mine.network == theirs.network
    return question(
        f"The desk has {mine.ip}, a node {theirs.ip}, both with mask {mask}. Do they hear each "
        "other?",
        Kind.CHOICE,
        YES if same else NO,
        f"Mask {mask} is /{bits}. {mine.ip} is in {mine.network.network_address} to "
        f"{mine.network.broadcast_address}; {theirs.ip} is "
        + ("in there, too." if same else "outside."),
        [
            (
                NO if same else YES,
                "only the numbers under a 255 have to be the same"
                if bits % 8 == 0
                else f"a {str(mask).split('.')[bits // 8]} in the mask makes blocks of "
                f"{2 ** (8 - bits % 8)}",
            )
        ],
        choices=(YES, NO),
    )
