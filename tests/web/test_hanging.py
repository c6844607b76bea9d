"""Where it hangs, on its page: setting out, forgetting, from above and from the front, on paper."""

from __future__ import annotations

import re

import pypdfium2
from werkzeug.test import TestResponse

from fence.core import edits
from fence.core.model.scene import Place
from fence.core.model.show import Show
from fence.store.shows import ShowStore
from tests.conftest import Visitor

PATH = "/shows/1/rig/plan"


def bare(shows: ShowStore) -> None:
    """The clean show without places."""
    saved = shows.get(1)
    show = saved.show
    for fixture in show.fixtures:
        show = edits.hang_at(show, fixture.id, None)
    shows.save(saved, show, who="T")


def change(visitor: Visitor, shows: ShowStore, path: str, sent: dict[str, str]) -> TestResponse:
    """Send a form as it was shown."""
    return visitor.post(path, {**sent, "revision": str(shows.get(1).revision)})


def test_a_position_is_set_out(visitor: Visitor, shows: ShowStore) -> None:
    """Evenly, in one step that can be undone, and forgotten again."""
    bare(shows)
    assert "No fixture has a place in metres yet" in visitor.get(PATH).text
    sent = {"position": "Palm House", "first": "-6 / 0 / 6", "last": "6 / 0 / 6"}
    assert change(visitor, shows, PATH, sent).status_code == 302
    page = visitor.get(PATH).text
    assert "4 of 64 fixtures placed" in page
    assert "Palm 1 U1 001, Palm House, at -6 / 0 / 6 m" in page
    assert "Palm 1 to Palm 4 placed" in visitor.get("/shows/1/log").text
    shows.undo(1, revision=shows.get(1).revision, who="T")
    assert shows.get(1).show.fixture(1).at is None
    change(visitor, shows, PATH, sent)
    change(visitor, shows, PATH, {"position": "Palm House", "forget": "1"})
    assert shows.get(1).show.fixture(1).at is None


def test_what_cannot_be_placed_is_kept_as_typed(visitor: Visitor, shows: ShowStore) -> None:
    """With what is accepted, and nothing changed."""
    before = shows.get(1).show
    sent = {"position": "Palm House", "first": "over there", "last": "6 / 0 / 6"}
    refused = change(visitor, shows, PATH, sent)
    assert refused.status_code == 422
    assert "“over there” is not a place. Use metres across, back and up" in refused.text
    assert 'value="over there"' in refused.text
    assert change(visitor, shows, PATH, {**sent, "first": ""}).status_code == 422
    assert change(visitor, shows, PATH, {**sent, "position": "Nowhere"}).status_code == 422
    assert shows.get(1).show == before


def test_from_above_and_from_the_front(visitor: Visitor, shows: ShowStore) -> None:
    """Each fixture once, higher up the picture the farther back, or the higher up; positions with
    their turn on the walk; what is picked is told with the ways on."""
    show = shows.get(1).show

    def heights(page: str) -> dict[str, float]:
        found = re.findall(r'aria-label="([^",]+?) U\d[^"]*"\s*><rect[^>]* y="([-\d.]+)"', page)
        return {label: float(y) for label, y in found}

    above, front = (heights(visitor.get(f"{PATH}?view={view}").text) for view in ("above", "front"))
    assert len(above) == len(front) == len(show.fixtures)
    assert above["Rill 1"] < above["Palm 1"] < above["Arch 1"]
    assert front["Canopy 1"] < front["Palm 1"] < front["Rill 1"]
    page = visitor.get(f"{PATH}?fixture=9&zoom=4").text
    assert "zoom-4" in page
    assert 'href="/shows/1/set/9"' in page
    assert visitor.get(f"{PATH}?view=sideways&zoom=3&fixture=9999").status_code == 200


def test_a_place_is_typed_on_the_page_of_a_fixture(visitor: Visitor, shows: ShowStore) -> None:
    """And seen on its card, which leads to the plan."""
    fixture = shows.get(1).show.fixture(1)
    sent = {
        "label": fixture.label,
        "number": str(fixture.number),
        "mode": fixture.mode,
        "position": fixture.position,
        "address": "1/1",
        "note": "",
        "at": "1,5 / -2 / 6",
    }
    assert change(visitor, shows, "/shows/1/rig/1", {**sent, "at": "there"}).status_code == 422
    change(visitor, shows, "/shows/1/rig/1", sent)
    assert shows.get(1).show.fixture(1).at == Place(1.5, -2, 6)
    assert 'value="1.5 / -2 / 6 m"' in visitor.get("/shows/1/rig/1").text
    assert "Where is it? 1.5 / -2 / 6 m" in visitor.get("/shows/1/set/1").text


def test_on_paper(visitor: Visitor, shows: ShowStore) -> None:
    """A page for each position, on paper of four sizes, with labels and addresses."""
    for size, width in (("a4", 842), ("a1", 2384)):
        data = visitor.get(f"{PATH}/plan.pdf?size={size}").data
        document = pypdfium2.PdfDocument(data)
        assert len(document) == 7
        assert round(document[0].get_width()) == width
        words = document[0].get_textpage().get_text_range()
        for expected in ("Palm House", "Palm 4", "U1 049", "Scale 1:"):
            assert expected in words
    empty = shows.create(Show("Empty"), who="T")
    none = visitor.get(f"/shows/{empty.id}/rig/plan/plan.pdf")
    assert none.status_code == 422
    assert "No fixture has a place in metres yet" in none.text
