"""Choosing modes on the pages: needs, recommendations, combinations, and changes seen first."""

from __future__ import annotations

import pytest

from fence.core.model.needs import ModeSchool, Need, Scope
from fence.store.shows import ShowStore
from tests.conftest import Visitor

FERNS = "5,6,7,8,9,10"


def test_needs_are_said_and_taken_back(visitor: Visitor, shows: ShowStore) -> None:
    """A need of a position or of one fixture is kept, changes what is recommended, and can be taken
    back and undone."""
    said = {"whom": "position|Gatehouse", "features": ["dimmer", "white"], "school": "full"}
    visitor.post("/shows/1/modes/needs", {**said, "revision": shows.get(1).revision})
    assert (
        Need(Scope.POSITION, "Gatehouse", ("dimmer", "white"), ModeSchool.FULL)
        in shows.get(1).show.needs
    )
    one = {"fixture": "gate a", "school": "lean", "revision": shows.get(1).revision}
    visitor.post("/shows/1/modes/needs", one)
    gate = next(f for f in shows.get(1).show.fixtures if f.label == "Gate A")
    assert shows.get(1).show.needs[-1] == Need(Scope.FIXTURE, str(gate.id), (), ModeSchool.LEAN)
    assert shows.history(1)[0].words == "Needed of Gate A: lean modes"
    more = {"whom": "position|Gatehouse", "features": ["red"], "revision": shows.get(1).revision}
    visitor.post("/shows/1/modes/needs", more)  # said beside what was said before
    assert (
        Need(Scope.POSITION, "Gatehouse", ("dimmer", "red", "white"), ModeSchool.FULL)
        in shows.get(1).show.needs
    )
    clear = {"whom": f"fixture|{gate.id}", "clear": "1", "revision": shows.get(1).revision}
    visitor.post("/shows/1/modes/needs", clear)
    assert all(need.scope is not Scope.FIXTURE for need in shows.get(1).show.needs)


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"whom": "show|"}, "Tick at least one feature"),
        ({"whom": "moon|"}, "Say of whom"),
        ({"fixture": "Nobody", "features": "dimmer"}, "No fixture is called “Nobody”"),
        ({"whom": "show|", "features": "sparkle"}, "is not a feature"),
    ],
)
def test_an_odd_need_is_told(
    visitor: Visitor, shows: ShowStore, form: dict[str, object], words: str
) -> None:
    """A need that says nothing, of nobody, or of no feature is refused and nothing is changed."""
    before = shows.get(1).show
    answer = visitor.post("/shows/1/modes/needs", {**form, "revision": shows.get(1).revision})
    assert answer.status_code == 422
    assert words in answer.text
    assert shows.get(1).show == before


def test_a_refused_need_keeps_what_was_typed(visitor: Visitor) -> None:
    """After a refusal the ticks, the circle and the name are still in the form."""
    form = {
        "whom": "position|Rill",
        "fixture": "Nobody",
        "features": ["white", "dimmer"],
        "school": "full",
    }
    page = visitor.post("/shows/1/modes/needs", {**form, "revision": 1}).text
    assert 'value="position|Rill" selected' in page
    assert 'value="Nobody"' in page
    assert (
        page.count("checked> white")
        == page.count("checked> dimmer")
        == page.count("checked> full")
        == 1
    )


def test_combinations_are_worked_out(visitor: Visitor) -> None:
    """Each goal gives its universes and says whether it is proven; too few universes are told."""
    assert "Proven: no combination is better." in visitor.get("/shows/1/modes?goal=fewest").text
    assert "fixtures in their fullest mode" in visitor.get("/shows/1/modes?goal=full").text
    assert "Not even the smallest modes" in visitor.get("/shows/1/modes?goal=within&within=1").text
    assert "Use 1 to" in visitor.get("/shows/1/modes?goal=within&within=0").text


def test_a_mode_change_is_seen_and_mended(visitor: Visitor, shows: ShowStore) -> None:
    """Six fixtures grow: the page shows clashes without the mend and moves with it; both ways can
    be taken."""
    page = visitor.get(f"/shows/1/modes/change?ids={FERNS}&mode=10+channel").text
    assert "8 → 10" in page
    assert "It takes 10 channels in the new mode" in page
    assert shows.get(1).revision == 1
    form = {"ids": FERNS, "mode": "10 channel", "revision": 1}
    visitor.post("/shows/1/modes/change", {**form, "mend": "1"})
    assert {shows.get(1).show.fixture(i).mode for i in range(5, 11)} == {"10 channel"}
    assert '0 <span class="word">stops' in visitor.get("/shows/1/address").text
    shows.undo(1, revision=2, who="Test")
    visitor.post("/shows/1/modes/change", {**form, "revision": shows.get(1).revision, "seen": "1"})
    assert "5 stops" in visitor.get("/shows/1/address").text


def test_all_that_is_recommended_in_one_step(visitor: Visitor, shows: ShowStore) -> None:
    """Everything recommended is taken in one step, without a new stop, and is then what is
    there."""
    visitor.post("/shows/1/modes/change", {"recommended": "1", "mend": "1", "revision": 1})
    assert shows.get(1).revision == 2
    assert '0 <span class="word">stops' in visitor.get("/shows/1/address").text
    assert (
        "They are all in these modes already."
        in visitor.get("/shows/1/modes/change?recommended=1").text
    )


def test_a_change_of_nothing_or_of_strangers(visitor: Visitor) -> None:
    """No fixtures, fixtures that are gone, and a mode that a type lacks are told."""
    assert visitor.get("/shows/1/modes/change").status_code == 422
    assert visitor.get("/shows/1/modes/change?ids=999&mode=x").status_code == 422
    assert "has no mode" in visitor.get("/shows/1/modes/change?ids=5&mode=x").text


def test_the_rig_sends_its_picks_to_the_preview(visitor: Visitor) -> None:
    """Picked rows go to the preview in rig order; what cannot take the mode is told on the same
    page."""
    pick = {"picked": ["9", "5"], "mode": "10 channel", "action": "preview-mode", "revision": 1}
    assert visitor.post("/shows/1/rig/bulk", pick).location.endswith(
        "change?ids=5,9&mode=10+channel"
    )
    mixed = visitor.post("/shows/1/rig/bulk", {**pick, "picked": ["1", "5"]})
    assert mixed.status_code == 422
    assert "Palm 1 has no mode" in mixed.text


def test_an_empty_show_has_nothing_to_choose(visitor: Visitor) -> None:
    """Without fixtures the page says the first step."""
    visitor.post("/shows", {"name": "Empty"})
    assert "Add fixtures first" in visitor.get("/shows/4/modes").text
