"""A designer's scene comes into a rig, a clash is mended, and it goes back."""

from __future__ import annotations

from pathlib import Path

import pymvr
import pytest

from fence.core import edits
from fence.core.model.address import Address
from fence.demo import clean_show
from fence.formats.mvr import write_mvr
from tests.browser.conftest import Page

pytestmark = pytest.mark.browser


def test_a_scene_in_a_clash_mended_and_out(page: Page, tmp_path: Path, downloads: Path) -> None:
    """Over a show that is there: what would change is seen first; the clash that it brings is
    mended on Address; what goes out has the address of Fence, read by the library of the
    standard."""
    show = clean_show()
    clashing = edits.place(show, 59, Address(4, 3))
    scene = tmp_path / "from the designer.mvr"
    scene.write_bytes(write_mvr(clashing, "elsewhere"))
    page.open("/shows/1/rig")
    page.driver.execute_script("document.getElementById('import-box').showModal()")
    page.one("#import-file").send_keys(str(scene))
    page.one("#import-file").submit()
    page.sees("64 fixtures understood")
    page.sees("would change")
    page.sees("U4 003")
    page.click(".card-form button.btn-primary")
    page.sees("2 stops", "#verdict")
    page.open("/shows/1/address?pick=59")
    page.click("#inspector .mend")
    page.click("#apply")
    page.sees("0 stops", "#verdict")
    before = set(downloads.glob("*.mvr"))
    page.open("/shows/1/settings")
    page.click("a[href$='export.mvr']")
    page.wait(lambda: set(downloads.glob("*.mvr")) - before, "no scene comes down")
    (held,) = set(downloads.glob("*.mvr")) - before
    library = pymvr.GeneralSceneDescription(str(held))
    found = {
        one.name: (address.universe, address.address)
        for layer in library.scene.layers
        for one in layer.child_list.fixtures
        for address in one.addresses.addresses[:1]
    }
    planned = {
        one.label: (one.patch[0].universe, one.patch[0].slot)
        for one in show.fixtures
        if one.start is not None and one.id != 59
    }
    assert {name: place for name, place in found.items() if name != "Vine 1"} == planned
    assert found["Vine 1"] not in (planned.values(), (4, 3))
