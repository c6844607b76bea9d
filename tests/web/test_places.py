"""Find, by the words of the trade: everyday wishes and the page that answers them."""

from __future__ import annotations

import pytest
from flask import Flask

from fence.web.places import PLACES, places_for
from tests.conftest import Visitor

WISHES = {
    "clone a fixture": "add.index",
    "add 12 pars": "add.index",
    "RDM discovery": "rdm.index",
    "UID": "rdm.index",
    "identify a fixture": "rdm.index",
    "factory reset": "rdm.index",
    "swap a spare": "rdm.index",
    "rig from rdm": "speak.index",
    "lock addresses rdm": "hold.index",
    "DIP switches for 137": "switches.of_show",
    "dip": "switches.of_show",
    "dipswitch calculator": "switches.of_show",
    "learn dip switches": "practise.index",
    "who is on universe 3": "address.index",
    "patch": "address.index",
    "overlapping addresses": "address.index",
    "autopatch": "layout.index",
    "free channels": "room.index",
    "reserve slots": "universes.edit",
    "wireless transmitter full": "links.index",
    "wireless": "links.index",
    "link a receiver": "links.index",
    "terminator": "lines.index",
    "why does it flicker": "lines.index",
    "splitter": "lines.index",
    "how many cables to bring": "pull.index",
    "pull list": "pull.index",
    "xlr pinout": "pins.index",
    "battery runtime": "day.index",
    "print labels": "labels.index",
    "qr stickers": "labels.index",
    "patch sheet": "lists.index",
    "channel list": "lists.index",
    "hookup": "lists.index",
    "node IP": "hosts.index",
    "subnet mask": "hosts.index",
    "node": "network.index",
    "art-net unicast": "network.index",
    "merge HTP": "network.index",
    "artpoll": "look.index",
    "discover nodes": "look.index",
    "sacn universe to artnet": "numbers.of_show",
    "open white": "prove.index",
    "flash a fixture": "prove.index",
    "park a channel": "faders.index",
    "why is it dark": "prove.compare",
    "dmx tester": "tester.index",
    "match colours": "colour.index",
    "new personality": "entering.paste",
    "no manual": "probe.index",
    "fewer channels mode": "choose.index",
    "handover": "log.index",
    "snapshot": "log.index",
    "what changed since": "log.between",
    "console page": "shows.settings",
    "daisy chain": "lines.index",
    "swap two fixtures": "address.index",
    "pan invert": "rdm.index",
    "what is on channel 300": "address.index",
    "terminating resistor": "lines.index",
    "data loss": "lines.index",
    "software version": "rdm.index",
    "blackout": "prove.index",
    "watch dmx values": "tester.index",
    "pixel mapping modes": "choose.index",
    "antenna": "links.index",
    "adapter 3 pin 5 pin": "pins.index",
    "ip range": "hosts.index",
    "poll the network": "look.index",
    "channel check": "prove.index",
    "gel match": "colour.index",
    "restore yesterday": "log.index",
    "reserved addresses": "universes.edit",
    "height of the truss": "ground.index",
}


@pytest.mark.parametrize(("wish", "endpoint"), WISHES.items())
def test_a_wish_leads_to_its_page(wish: str, endpoint: str) -> None:
    """It is among the first three."""
    assert endpoint in [place.endpoint for place in places_for(wish)[:3]]


def test_each_place_is_there_and_found_by_its_own_name(visitor: Visitor, app: Flask) -> None:
    """No link is dead; whoever types a title has it among the first three."""
    for place in PLACES:
        assert place in places_for(place.title)[:3], place.title
        with app.test_request_context():
            url = app.url_for(place.endpoint, show_id=2, **place.asked("12"))
        assert visitor.get(url).status_code in (200, 302), url


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("DIP switches for 137", "/shows/2/switches?address=137"),
        ("who is on universe 3", "/shows/2/address?u=3"),
        ("switches 513", "/shows/2/switches"),
        ("switches 512", "/shows/2/switches?address=512"),
    ],
)
def test_a_number_goes_along(visitor: Visitor, typed: str, first: str) -> None:
    """Where the page can use it, and it is one that can be."""
    page = visitor.get(f"/shows/2/rig/find?find={typed.replace(' ', '+')}").text
    assert f'href="{first}"' in page


@pytest.mark.parametrize("words", ["", " ", "the of", "qqqq", "ß€", "a" * 4000, "x " * 4000])
def test_nothing_is_found_by_nothing(words: str) -> None:
    """Nor does a long text hold anybody up."""
    assert places_for(words) == []


def test_a_fixture_comes_before_a_page(visitor: Visitor) -> None:
    """Its label, typed, is the first that is found."""
    page = visitor.get("/shows/1/rig/find?find=Palm+1").text
    assert page.index("Palm 1") < page.index("</li>")
