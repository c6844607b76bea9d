"""What a universe is called by devices that count from 0 and from 1, and as
net.sub-net.universe."""

from __future__ import annotations

from random import Random

from fence.core.model.box import Box
from fence.core.model.network import artnet_parts, artnet_words, number_on, universe_said
from fence.core.model.show import Show
from fence.core.practising.question import Kind, Question, question


def counting(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: what to type at a node that counts from 0; level 2: which universe a number between
    two devices is; level 3: net.sub-net.universe both ways."""
    names = [box.name for box in rig.boxes] or ["The node"]
    name = chance.choice(names)
    if level == 3:
        return _as_triple(chance) if chance.random() < 0.5 else _of_triple(chance)
    mine, theirs = (1, 0) if level == 1 else chance.choice(((0, 1), (1, 0), (0, 0), (1, 1)))
    universe = chance.randint(1, 12 if level == 1 else 200)
    desk, node = Box(1, "Desk", counts_from=mine), Box(2, "Node", counts_from=theirs)
    said, right = number_on(desk, universe), number_on(node, universe)
    step = right - said
    working = (
        f"Both count from {mine}: the same number."
        if not step
        else f"The desk’s {said} is the {universe}. one from the first; counted from {theirs} "
        f"that is {right}."
    )
    return question(
        f"The desk counts universes from {mine} and calls one {said}. {name} counts from "
        f"{theirs}. Which number does it have there?",
        Kind.NUMBER,
        str(right),
        working,
        [
            (said, "that is the desk’s own number; they do not count from the same number"),
            (said - step, "the wrong way: " + ("one less" if step < 0 else "one more") + " it is"),
            (said - 1, "both count from the same number: nothing is taken off"),
            (said + 1, "both count from the same number: nothing is added"),
        ]
        if said - step >= 0
        else [(said, "that is the desk’s own number; they do not count from the same number")],
    )


def _as_triple(chance: Random) -> Question:
    universe = chance.randint(1, 600)
    box = Box(1, "Node", counts_from=0)
    address = number_on(box, universe)
    net, sub, low = artnet_parts(address)
    return question(
        f"Universe {universe} goes by Art-Net to a node that counts from 0. What is it as "
        "net.sub-net.universe?",
        Kind.TRIPLE,
        artnet_words(address),
        f"{universe} − 1 = {address} = {net} × 256 + {sub} × 16 + {low}",
        [
            (artnet_words(universe), "it counts from 0: take 1 off first"),
            (f"{net}.{low}.{sub}", "sub-net and universe the wrong way round"),
            (f"{net}.{sub}.{low + 1}", "the last part counts from 0 as well"),
        ],
    )


def _of_triple(chance: Random) -> Question:
    universe = chance.randint(1, 600)
    box = Box(1, "Node", counts_from=0)
    address = number_on(box, universe)
    net, sub, low = artnet_parts(address)
    right = universe_said(box, address)
    return question(
        f"A node says {artnet_words(address)} (net.sub-net.universe, counted from 0). Which "
        "universe is that, counted from 1?",
        Kind.NUMBER,
        str(right),
        f"{net} × 256 + {sub} × 16 + {low} = {address}, and 1 since it counts from 0: {right}",
        [
            (address, "it counts from 0: add 1"),
            (net * 100 + sub * 10 + low, "the parts are not digits: a sub-net is 16 universes"),
            (net * 256 + low * 16 + sub + 1, "sub-net and universe the wrong way round"),
        ],
    )
