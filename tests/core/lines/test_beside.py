"""A position by cable beside by air, links and pins, each on a rig small enough to count by
hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fence.core import edits
from fence.core.lines.beside import beside
from fence.core.lines.pins import BANDS, OHMS, PINS, adapter, ohms
from fence.core.lines.wireless import link_to, links_of
from fence.core.model.errors import EditError
from fence.core.model.ground import DESK, Distance, Ground
from fence.core.model.line import Cable, Device, Plug, Power
from fence.core.model.stock import Item, Kind
from tests.core.lines.test_plan import AIRY, HEAVY, LAMP, rig

GROUND = Ground((Distance(DESK, "P", 20),), 0)


def test_by_cable_and_by_air_are_counted() -> None:
    """Pieces, adapters, receivers, packs and the price where all of it is known."""
    show = rig([("P", LAMP, 2), ("P", HEAVY, 2), ("P", AIRY, 1)], GROUND, spacing=5)
    show = edits.set_stock(
        show,
        [
            Item(Kind.CABLE, 9, length=5.0, price=2),
            Item(Kind.CABLE, 2, length=20.0, price=7),
            Item(Kind.ADAPTER, 3, price=1),
            Item(Kind.TERMINATOR, 2, price=3),
            Item(Kind.TRANSMITTER, 1, price=100),
            Item(Kind.CABLE, 9, plugs=(Plug.THREE, Plug.THREE), length=5.0, price=4),
            Item(Kind.PACK, 4, price=10),
            Item(Kind.RECEIVER, 4, price=50),
        ],
    )
    found = beside(show, "P")
    assert (found.fixtures, found.only_wireless, found.unknown) == (5, 1, 0)
    assert dict(found.by_cable.things) == {"cable": 4, "adapter": 1, "terminator": 1}
    assert (found.by_cable.metres, found.by_cable.pieces, found.by_cable.price) == (
        35,
        6,
        7 + 2 + 2 + 4 + 1 + 3,
    )
    assert dict(found.by_wireless.things) == {
        "transmitter": 1,
        "cable": 1,
        "receiver": 4,
        "battery pack": 4,
    }
    # the sender stands on a cable, each receiver on a pack
    assert found.by_wireless.price == 100 + 2 + 4 * (50 + 10)
    unpriced = replace(show, stock=show.stock[:-1])
    assert beside(unpriced, "P").by_wireless.price is None
    assert beside(edits.set_ground(show, Ground()), "P").by_cable.metres is None
    with pytest.raises(EditError, match="takes a signal"):
        beside(show, "Moon")


def test_a_link_tells_its_steps() -> None:
    """The sender first, then unlinking, then each receiver with its side, its power and how it is
    told apart."""
    show = rig([("P", AIRY, 1)], GROUND)
    show = edits.insert(edits.add_line(show, "Air", 1), 1, Device.TRANSMITTER, label="S", outputs=4)
    show = edits.insert(
        edits.chain(show, 1, [1], after=1), 1, Device.RECEIVER, after=1, label="Node"
    )
    show = edits.set_cable(show, 1, [2, 3], Cable.WIRELESS, (Plug.WIRELESS, Plug.WIRELESS))
    show = edits.set_device(show, 1, 3, link="9", power=Power.PACK, hours=6, sign="blinks blue")
    (link,) = links_of(edits.set_links(show, 1, [1, 2], "14"))
    assert (link.channel, link.serves, [ear.hears for ear in link.ears]) == ("14", 4, ["14", "9"])
    assert [ear.others for ear in link.ears] == [False, True]
    assert link.steps[0] == "S: on its sending side, U1 at its input, channel 14."
    assert "Unlink every receiver" in link.steps[1]
    assert link.steps[2] == "P 1: link to channel 14; mode m, start U1 001, as the card says."
    assert link.steps[3] == (
        "Node: receiving side, link to channel 14, power from a battery pack, 6 h, blinks blue "
        "when it is linked."
    )
    held = link_to(show, 1)
    assert held is not None
    assert (held[0].name, held[1].name) == ("S", "P 1")
    assert link_to(rig([("P", LAMP, 1)], GROUND), 1) is None


def test_pins_agree_with_the_standards() -> None:
    """Every plug carries the pair and the common; an adapter joins like with like; three bands say
    120."""
    assert ohms(BANDS) == OHMS
    assert [(what, one, other) for what, one, other in adapter(Plug.FIVE, Plug.THREE)] == [
        ("common (shield)", (1,), (1,)),
        ("data −", (2,), (2,)),
        ("data +", (3,), (3,)),
    ]
    assert [other for _, _, other in adapter(Plug.FIVE, Plug.RJ45)] == [(7, 8), (2,), (1,)]
    for pins in PINS.values():
        assert len({(pin.x, pin.y) for pin in pins}) == len(pins)
        assert sorted(pin.number for pin in pins) == list(range(1, len(pins) + 1))
    left_to_right = [pin.number for pin in sorted(PINS[Plug.THREE], key=lambda pin: pin.x)]
    assert left_to_right == [1, 3, 2]
