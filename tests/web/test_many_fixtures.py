"""Shows of very many fixtures: pages are windows, and whoever is not listed is called by name."""

from __future__ import annotations

import pytest

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.library import shipped_profiles
from fence.store.shows import ShowStore
from tests.conftest import Visitor

PAGES = ("prove", "prove/troubleshoot", "prove/faders?fixture=5", "rig", "rig/add", "charts", "set")


@pytest.fixture
def many(shows: ShowStore) -> list[int]:
    """Shows of 500 and of 2,500 dimmers at few positions."""
    profile = next(p for p in shipped_profiles() if p.id == "generic-dimmer")
    found = []
    for universes in (1, 5):
        show = Show("Many")
        for number in range(1, universes + 1):
            show = edits.add_universe(show, number)
            first = (number - 1) * 500 + 1
            show = edits.add_fixtures(
                show,
                edits.AddRun(
                    profile, "1 channel", 500, f"D{first}", first, "Roof", start=Address(number, 1)
                ),
            )
        found.append(shows.create(show, who="A").id)
    return found


def test_pages_do_not_grow_with_the_rig(visitor: Visitor, many: list[int]) -> None:
    """Five times the fixtures make no page much larger, and none larger than 200 kB but the list of
    charts, which has none of them."""
    for page in PAGES:
        sizes = [len(visitor.get(f"/shows/{show}/{page}").data) for show in many]
        assert sizes[1] < 1.1 * sizes[0] + 2000, page
        assert sizes[1] < (300_000 if page == "charts" else 200_000), page


def test_who_is_drawn_and_who_is_not(visitor: Visitor, many: list[int]) -> None:
    """Those around the current one hang on the picture; how many more there are is said."""
    page = visitor.get(f"/shows/{many[1]}/prove?fixture=1250").text
    assert "2340 more here are not drawn." in page
    for label, drawn in (("D1250", True), ("D1200", True), ("D1", False), ("D2500", False)):
        assert (f">{label}</text>" in page) is drawn, label


def test_one_of_many_is_called(visitor: Visitor, many: list[int]) -> None:
    """By label or number, and several at once where several can be meant."""
    show = many[1]
    assert 'name="fixture_called"' in visitor.get(f"/shows/{show}/prove/faders").text
    assert "D2222" in visitor.get(f"/shows/{show}/prove/faders?fixture_called=2222").text
    assert visitor.get(f"/shows/{show}/prove/faders?fixture_called=Nobody").status_code == 422
    form = {"kind": "look", "whom_called": "D7 thru D9", "whom": "", "answer": "dark"}
    noted = visitor.post(f"/shows/{show}/prove/troubleshoot/note", form)
    assert noted.status_code == 302
    page = visitor.get(f"/shows/{show}/prove/troubleshoot").text
    for label in ("D7", "D8", "D9"):
        assert label in page
    refused = visitor.post(
        f"/shows/{show}/prove/troubleshoot/note", {**form, "whom_called": "Nobody"}
    )
    assert refused.status_code == 422
    assert "No fixture is called “Nobody”" in refused.text
