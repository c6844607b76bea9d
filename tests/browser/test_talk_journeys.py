"""A heap of sixty becomes a rig; a hold puts back what was changed; who is who; from a phone. The
rig is a process."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import pytest
from selenium.webdriver import Chrome

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.box import Protocol
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.packet import Parameter
from fence.core.rdm.values import read_info
from fence.standins.rig import ask
from fence.store.database import open_engine
from fence.store.shows import ShowStore
from fence.wire.rdm_ports import Place, hear_all, talking
from tests.addresses import own
from tests.browser.chromium import serving
from tests.browser.conftest import Page, forget
from tests.core.rdm.test_rig_from_devices import OLD, SPOT
from tests.wire.test_rdm import standing_in

pytestmark = pytest.mark.browser
WASH = Profile(
    "rook-caw", "Rook", "Caw", (Mode("Basic", (Part(9),)), Mode("Full", (Part(21),))), rdm=True
)
"""A type that no library knows."""


def outside() -> Show:
    """What really hangs there: sixty that talk on two universes, of two types."""
    show = Show("Outside")
    for profile, mode, universe, label in (
        (SPOT, "Short", 1, "A 1"),
        (WASH, "Basic", 1, "B 1"),
        (SPOT, "Short", 2, "C 1"),
        (WASH, "Basic", 2, "D 1"),
    ):
        run = edits.AddRun(profile, mode, 15, label, start=Address(universe, 1))
        show = edits.add_fixtures(show, run)
    return show


def planned(ip: str) -> Show:
    """What Fence knows: six without RDM, at addresses of their own, and the box that the cables
    start at."""
    show = Show("The heap")
    for universe, start in ((1, 1), (2, 40)):
        run = edits.AddRun(OLD, "4 channel", 3, f"Drum {universe}1", start=Address(universe, start))
        show = edits.add_fixtures(show, run)
    show = edits.add_box(show, "Truss node")
    box = show.boxes[-1]
    show = edits.put_box(show, replace(box, ip=ip, protocol=Protocol.ARTNET, counts_from=0))
    return edits.give(edits.count_ports(show, box.id, 2), box.id, {1: 1, 2: 2})


@contextmanager
def heap(browser: Chrome, tmp_path: Path) -> Iterator[tuple[Page, str, int]]:
    """Fence with what is planned, and the sixty in a heap; gives the page, where they are, and
    where to touch them."""
    bind = own(61)
    with (
        standing_in(outside(), tmp_path, bind, "heap") as port,
        serving(tmp_path / "heap.db", demo=False) as base,
    ):
        engine = open_engine(tmp_path / "heap.db")
        ShowStore(engine).create(planned(bind), who="Crew")
        engine.dispose()
        forget(browser, base)
        page = Page(browser, base)
        try:
            yield page, bind, port
            assert not page.complaints()
        finally:
            browser.get("about:blank")
            page.complaints()  # what a page says that the server left behind is nobody else's


def heard(bind: str) -> list[DeviceInfo]:
    """What they say now, asked beside Fence."""
    with talking(own(62)) as lines:
        return hear_all(lines, [Place(bind, 0, 1), Place(bind, 1, 2)], flush=False)[0]


def address_of(bind: str, one: DeviceInfo) -> int | None:
    """What one of them says now, and nothing else: the hold talks on the same line."""
    with talking(own(62)) as lines:
        info = read_info(
            lines.talk(bind, (one.universe or 1) - 1).get(one.identity, Parameter.DEVICE_INFO)
        )
    return info.address if info else None


def runs(said: list[DeviceInfo]) -> list[tuple[int, set[int]]]:
    """The slots of each by universe."""
    return [
        (s.universe or 0, set(range(s.address or 0, (s.address or 0) + s.footprint))) for s in said
    ]


def test_from_a_heap_to_a_rig_that_is_held(browser: Chrome, tmp_path: Path) -> None:
    """Sixty at 1 are asked, planned and set in one step; then a change at one is put back."""
    with heap(browser, tmp_path) as (page, bind, port):
        page.open("/shows/1/rdm")
        page.click("#ask")
        page.sees("60 devices answered")
        page.click("#speak-first")
        page.sees("60 new fixtures")
        page.sees("Rook Caw")
        assert page.text("#outcome .before-after tbody tr:first-child td:last-child") == "0"
        page.click("#apply")
        page.sees("60 of 60 devices set and heard back")
        page.sees("60 of the plan answer")
        assert " differ" not in page.text(".talk-sum")
        assert page.text(".stops, .verdict").startswith("0")
        taken: dict[int, set[int]] = {1: set(range(1, 13)), 2: set(range(40, 52))}
        for universe, slots in runs(heard(bind)):
            assert not slots & taken[universe]
            taken[universe] |= slots
        page.open("/shows/1/rdm/hold")
        page.click("#hold")
        page.sees("60 devices held")
        one = next(said for said in heard(bind) if said.model == "Caw")
        fixture = one.identity.device
        ask(bind, port, touch={"fixture": fixture, "address": 480})
        page.wait(lambda: address_of(bind, one) == one.address, "not back")
        page.sees("480 was changed at it: put back")
        page.click("#let-go")
        page.sees("It ended")
        page.open("/shows/1/log")
        page.sees("Hold over RDM ended")
        page.sees("480 was changed at it: put back")


def test_who_is_who_and_a_spare(browser: Chrome, tmp_path: Path) -> None:
    """One blinks, is said to be another, and is set by hand; an address that another has is refused
    in words."""
    with heap(browser, tmp_path) as (page, bind, _):
        page.open("/shows/1/rdm")
        page.click("#ask")
        page.sees("60 devices answered")
        page.click(".talker .btn")
        page.sees("shows itself now")
        assert sum(said.identify for said in heard(bind)) == 1
        page.click("#dark")
        page.sees("Nobody shows itself any more")
        assert not any(said.identify for said in heard(bind))
        page.click(".talker-name a")
        page.type("#address", "600")
        page.click("#set-one")
        page.sees("Use 1 to")
        assert page.one("#address").get_attribute("value") == "600"
        page.type("#address", "2")
        page.click("#set-one")
        page.sees("listens there")
        page.type("#address", "301")
        page.type("#label", "Ladder side")
        page.click("#set-one")
        page.sees("nothing is set yet")
        page.click("#apply")
        page.sees("1 of 1 device set and heard back")
        assert [said.label for said in heard(bind) if said.address == 301] == ["Ladder side"]
