"""Small things that stood in the way: the find box, a fixture without a chart, filters that stay,
advice unasked."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from html import unescape

from fence.core import edits
from fence.core.addressing.mends import Unpin, mends_for
from fence.core.checks import RULES, findings_of
from fence.core.model.needs import Need, Scope
from fence.core.modes.advice import NOTHING_ASKED, recommend
from fence.demo import clean_show
from fence.store.shows import ShowStore
from fence.web.rig.page import found_by
from tests.conftest import Visitor
from tests.rigs import rig


def test_the_find_box_knows_slots_of_every_universe_and_free_ones() -> None:
    """A bare number is a fixture's number and that slot of each universe; a free slot says how much
    room there is."""
    show = rig(("A", 4, 1, 10), ("B", 4, 2, 12), ("C", 4, 2, 100))
    found = [(it.label, it.where, it.note) for it in found_by(show, "12")]
    assert found == [("A", "U1 010", ""), ("B", "U2 012", "")]
    assert found_by(show, "2")[0].label == "B"
    assert ("Free", "U2 016", "84 slots free from here") in [
        (i.label, i.where, i.note) for i in found_by(show, "2/16")
    ]
    kept = edits.reserve(show, 1, [300])
    assert found_by(kept, "1/300")[0].label == "Reserved"
    assert found_by(show, "nobody") == []


def test_eight_channels_without_a_chart(visitor: Visitor, shows: ShowStore) -> None:
    """A fixture is known by its channels alone, and more of it can be added at once."""
    form = {
        "kind": "any",
        "quantity": "2",
        "label": "Fog 1",
        "universe": "2",
        "start": "",
        "revision": 1,
    }
    refused = visitor.post("/shows/1/rig/add", form)
    assert "Say which channels the fixture takes." in refused.text
    again = visitor.post("/shows/1/rig/add", {**form, "channels": "8", "more": "1"})
    assert again.headers["Location"].startswith("/shows/1/rig/add?kind=any")
    show = shows.get(1).show
    assert [(f.label, show.footprints_of(f)) for f in show.fixtures[-2:]] == [
        ("Fog 1", (8,)),
        ("Fog 2", (8,)),
    ]
    preview = visitor.get("/shows/1/rig/add/preview?kind=any&channels=8&quantity=1&universe=2").text
    assert "on no line of U2" in preview  # the others of its universe hang on lines
    assert 'class="stop"' not in preview


def test_a_filter_stays_after_a_step(visitor: Visitor, shows: ShowStore) -> None:
    """The list comes back as it was filtered and sorted; its state column speaks in words."""
    page = visitor.get("/shows/2/rig?q=lily&sort=label").text
    assert 'name="f_q" value="lily"' in page
    assert "overlap</span>" in page
    form = {
        "revision": 1,
        "picked": [28],
        "action": "pin",
        "f_q": "lily",
        "f_sort": "label",
        "f_dir": "",
    }
    done = visitor.post("/shows/2/rig/bulk", form)
    assert done.headers["Location"] == "/shows/2/rig?q=lily&sort=label"


def test_nothing_is_advised_before_something_is_asked() -> None:
    """Without a need the advice is to stay, and what to do first; with one it chooses."""
    show = replace(clean_show(), needs=())
    fern = next(f for f in show.fixtures if f.label == "Fern 1")
    unasked = recommend(show, fern)
    assert (unasked.mode, unasked.reasons) == (fern.mode, (NOTHING_ASKED,))
    asked = recommend(edits.set_need(show, Need(Scope.FIXTURE, str(fern.id), ("white",))), fern)
    assert NOTHING_ASKED not in asked.reasons
    assert asked.mode


def test_the_guilty_one_is_moved_and_a_pin_is_named() -> None:
    """Of two that overlap the one that came later is moved first, a set one last; a pin is the
    reason and a way out."""
    show = rig(("A", 5, 1, 10), ("B", 5, 1, 12))
    overlap = findings_of(show)[0]
    assert mends_for(show, overlap)[0].text.startswith("Move B")
    done = edits.mark_set(show, [2])
    assert mends_for(done, findings_of(done)[0])[0].text.startswith("Move A")
    pinned = edits.pin(show, [1, 2])
    first = mends_for(pinned, findings_of(pinned)[0])[0]
    assert isinstance(first.action, Unpin)
    assert "is pinned at" in first.why


def test_a_move_to_a_new_universe_draws_the_whole_page(visitor: Visitor, shows: ShowStore) -> None:
    """Cards, title and address line would be of another page: it is loaded anew."""
    form = {"fixture": 28, "u": 2, "address": "9/1", "revision": 1, "seen": "1"}
    answer = visitor.post("/shows/2/address/move", form, htmx=True)
    assert answer.headers["HX-Redirect"] == "/shows/2/address?u=9&pick=28"
    assert shows.get(2).show.fixture(28).universe == 9


def test_no_field_refers_to_what_is_not_there(visitor: Visitor) -> None:
    """No list or description called None, and every page of a show is titled with it."""
    for path in (
        "/",
        "/shows/2/rig/add",
        "/shows/2/rig/28",
        "/shows/2/settings",
        "/shows/2/charts/paste",
    ):
        page = visitor.get(path).text
        assert '="None"' not in page
        assert path == "/" or "Glasshouse After Dark · Fence</title>" in unescape(page)


WORDS = """
rig rig/add rig/add/preview?kind=any&channels=1&quantity=1&universe=1 rig/1 rig/find?find=1
address address?pick=1 address?pick=2 address/overview address/repair address/repair?way=along
address/layout?school=spaced address/trial?tried=1&quantity=1&kind=p1+%7C+m address/sheet/1
address/room?length=1 address/ways
address/block/compact?u=1 address?pick=1&also=2 charts charts/p1/modes modes findings lists
lists?by=channel
settings switches?address=1
"""
PAGES = tuple(WORDS.split())
COUNTED = (
    "stop|caution|fixture|channel|slot|universe|gap|row|mode|move|position|finding|line|chart|"
    "look|part|switche"
)


def test_plurals_and_ids_on_every_page(visitor: Visitor, shows: ShowStore) -> None:
    """With one of everything no page says "1 fixtures", none says "fixture(s)", and no rule is
    called by its id."""
    show = rig(("A", 1, 1, 1), ("B", 511, 1, 1))
    show = edits.reserve(edits.set_position(show, [1], "Roof"), 1, [512])
    made = shows.create(show, who="Test")
    wrong = []
    for path in PAGES:
        page = visitor.get(f"/shows/{made.id}/{path}")
        assert page.status_code == 200, path
        text = unescape(re.sub(r"<(script|style)\b.*?</\1>|<[^>]*>", " ", page.text, flags=re.S))
        wrong += [
            f"{path}: {found[0]}"
            for found in re.finditer(rf"(?<![\d.,+→-])\b1 ({COUNTED})s\b", text)
        ]
        wrong += [
            f"{path}: {found[0]}" for found in re.finditer(r"\w+\(s\)|None|\bundefined\b", text)
        ]
        wrong += [f"{path}: {rule}" for rule in RULES if "-" in rule and rule in text]
    assert not wrong


def test_an_export_edited_and_read_again(visitor: Visitor, shows: ShowStore) -> None:
    """Ten labels and two addresses changed in the file: twelve changes seen, saved in one step,
    undone in one."""
    text = visitor.client.get("/shows/1/export.csv").text
    for number in range(1, 11):
        text = text.replace(f",Lily {number},", f",Pond {number},")
    lines = text.split("\r\n")
    for label, slot in (("Palm 1", "400"), ("Palm 2", "420")):
        at = next(n for n, line in enumerate(lines) if f",{label}," in line)
        cells = lines[at].split(",")
        lines[at] = ",".join([*cells[:7], slot, *cells[8:]])
    gone = next(n for n, line in enumerate(lines) if ",Storm," in line)
    data = "\r\n".join(lines[:gone] + lines[gone + 1 :]).encode()
    visitor.get("/shows/1/rig")
    form = {"into": "1", "file": (io.BytesIO(data), "back.csv"), "csrf_token": visitor.token}
    sent = visitor.client.post("/import", data=form, content_type="multipart/form-data")
    where = sent.headers["Location"]
    page = visitor.get(where)
    seen = unescape(" ".join(page.text.split()))
    assert (
        "12 of the show would change, 51 would stay as they are, 0 would be new; 1 of the show"
        in seen
    )
    assert "Storm. Else they are kept." in seen
    before = shows.get(1).show
    done = visitor.post(
        where.split("?")[0] + "/save", {"into": "1", "revision": shows.get(1).revision}
    )
    assert done.headers["Location"] == "/shows/1/rig"
    after = shows.get(1).show
    changed = [b.label for a, b in zip(before.fixtures, after.fixtures, strict=True) if a != b]
    assert changed == ["Palm 1", "Palm 2", *(f"Pond {n}" for n in range(1, 11))]
    shows.undo(1, revision=shows.get(1).revision, who="Test")
    assert shows.get(1).show == before


def test_a_refused_file_has_a_way_back(visitor: Visitor) -> None:
    """What cannot be read is told with where the file was chosen."""
    visitor.get("/shows/1/rig")
    form = {
        "into": "1",
        "file": (io.BytesIO(b"{not a show"), "x.json"),
        "csrf_token": visitor.token,
    }
    refused = visitor.client.post("/import", data=form, content_type="multipart/form-data")
    assert refused.status_code == 422
    assert 'href="/shows/1/rig">Back to where you were' in refused.text


def test_what_is_offered_can_be_done(visitor: Visitor) -> None:
    """A show without fixtures is sent to add some, and nothing is offered of none: no change of
    selected fixtures, no addresses to lay out, no modes that are taken already."""
    at = visitor.post("/shows", {"name": "Empty"}).headers["Location"].rsplit("/", 1)[0]
    rig = visitor.get(f"{at}/rig").text
    assert ("Change selected" in rig, "are changed here together" in rig) == (False, True)
    prove = visitor.get(f"{at}/prove").text
    assert ("Lay out addresses" in prove, f"{at}/rig/add" in prove) == (False, True)
    assert "Work it out" not in visitor.get(f"{at}/modes").text
    for way in ("plan", "by-position", "by-universe"):
        told = visitor.get(f"{at}/lines/plan?what={way}").text
        assert ("has a universe yet" in told, "hangs on a line already" in told) == (True, False)
    nobody = {"action": "pin", "revision": 1}
    assert 'role="alert"' in visitor.post(f"{at}/rig/bulk", nobody).text
    whom = {"kind": "any", "channels": "R G B W", "quantity": 2, "label": "Fern 1", "universe": 1}
    visitor.post(f"{at}/rig/add", {**whom, "revision": 1})
    assert "Change selected" in visitor.get(f"{at}/rig").text
    modes = visitor.get(f"{at}/modes").text
    assert ("Preview all" in modes, "no other mode is recommended" in modes) == (False, True)
