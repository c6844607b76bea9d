"""The Set step through its pages: the walk, marks, what it says, labels, one at a time."""

from __future__ import annotations

import re
from io import BytesIO
from urllib.parse import urlsplit

import pypdfium2
import pytest
import zxingcpp
from pypdf import PdfReader

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.show import Show
from fence.core.model.standing import state_of
from fence.demo import clean_show
from fence.library import shipped_profiles
from fence.store.shows import SavedShow, ShowStore
from fence.web.set.page import patch_words
from tests.conftest import Visitor

SHOW = 3


STEPS = re.compile(r'id="step-([^"]+)" aria-pressed="(true|false)"')


def called(saved: SavedShow, label: str) -> Fixture:
    return next(fixture for fixture in saved.show.fixtures if fixture.label == label)


def seen(fixture: Fixture) -> dict[str, str]:
    """What a card's form carries along."""
    return {"what": "set", "mode": fixture.mode, "patch": patch_words(fixture.patch)}


def state(shows: ShowStore, label: str) -> str:
    saved = shows.get(SHOW)
    return str(state_of(saved.show, called(saved, label)))


def test_all_places_tell_the_same_counts(visitor: Visitor, shows: ShowStore) -> None:
    """Walk, steps of the work, rig list and the rails of the fence."""
    standing = shows.get(SHOW).standing
    page = visitor.get(f"/shows/{SHOW}/set").text
    assert f"{standing.done} of {standing.of} set" in page
    assert f"{standing.again} again, {standing.words}" in page
    rig = visitor.get(f"/shows/{SHOW}/rig").text
    assert rig.count('caution">re-set</a>') + rig.count('caution">differs</a>') == standing.again
    rails = "".join(
        visitor.get(f"/shows/{SHOW}/address?u={number}").text for number in (1, 2, 3, 4)
    )
    assert len(re.findall(r"class=\"run hue-\d+ differs", rails)) == standing.again


def test_the_walk_begins_with_those_to_go_back_to(visitor: Visitor, shows: ShowStore) -> None:
    """Then position by position in the chosen order, which can be changed."""
    page = visitor.get(f"/shows/{SHOW}/set").text
    heads = [
        head.strip()
        for head in re.findall(r'<h2 class="walk-head"[^>]*>(?:<a[^>]*>)?([^<]+)', page)
    ]
    assert heads[:3] == ["First: go back to these", "Gatehouse", "Canopy Walk"]
    first = page.split('id="first"')[1].split("</section>")[0]
    assert re.findall(r'class="label">([^<]+)', first) == ["Canopy 1", "Bough 4", "Fern 6"]
    revision = shows.get(SHOW).revision
    form = {
        "revision": revision,
        "move": "-Palm House",
        "place": "Palm House",
        "height-Palm House": "6,5 m",
    }
    visitor.post(f"/shows/{SHOW}/set/order", form)
    show = shows.get(SHOW).show
    assert show.walk[1] == "Palm House"
    assert next(p.height for p in show.positions if p.name == "Palm House") == 6.5
    refused = visitor.post(
        f"/shows/{SHOW}/set/order", {**form, "revision": revision + 1, "height-Palm House": "high"}
    )
    assert refused.status_code == 422
    assert "type metres" in refused.text
    assert 'value="high"' in refused.text


def test_next_goes_on_by_itself(visitor: Visitor, shows: ShowStore) -> None:
    """A mark leads to the next that is not done; the last one back to the list."""
    saved = shows.get(SHOW)
    answer = visitor.post(
        f"/shows/{SHOW}/set/{called(saved, 'Bough 4').id}/mark", seen(called(saved, "Bough 4"))
    )
    assert answer.headers["Location"].endswith(f"/set/{called(saved, 'Fern 6').id}")
    assert state(shows, "Bough 4") == "set"
    gate = [f for f in saved.show.fixtures if f.position == "Gatehouse" and f.start]
    for fixture in gate:
        answer = visitor.post(
            f"/shows/{SHOW}/set/{fixture.id}/mark", {**seen(fixture), "at": "Gatehouse"}
        )
    assert answer.headers["Location"].endswith("/set?at=Gatehouse")


def test_a_mark_is_kept_as_it_was_made(visitor: Visitor, shows: ShowStore) -> None:
    """The plan changed while somebody was on the ladder: what was set is kept, and is to be set
    again."""
    saved = shows.get(SHOW)
    vine = called(saved, "Vine 1")
    shows.save(saved, edits.place(saved.show, vine.id, Address(4, 140)), who="Planner")
    visitor.post(f"/shows/{SHOW}/set/{vine.id}/mark", seen(vine))
    card = visitor.get(f"/shows/{SHOW}/set/{vine.id}").text
    assert "changed meanwhile" in card
    held = called(shows.get(SHOW), "Vine 1")
    assert held.set_to is not None
    assert held.set_to.patch == (Patch(4, 101),)
    assert held.set_to.by.who == "Crew"
    assert state(shows, "Vine 1") == "re-set"
    visitor.post(f"/shows/{SHOW}/undo", {"revision": shows.get(SHOW).revision})
    assert state(shows, "Vine 1") == "to set"
    broken = visitor.post(f"/shows/{SHOW}/set/{vine.id}/mark", {"what": "set", "patch": "x"})
    assert broken.status_code == 422
    assert "load the card again" in broken.text


def test_what_it_says_is_named_and_both_ways_out_work(visitor: Visitor, shows: ShowStore) -> None:
    """Set it now, or plan what it says; an edit that makes a stop is seen first; a reason is asked
    for."""
    saved = shows.get(SHOW)
    wall = called(saved, "Wall 1")
    path = f"/shows/{SHOW}/set/{wall.id}/says"
    page = visitor.get(f"{path}?says=d006").text
    assert "Arch 2’s address" in page
    assert "It would answer to Arch 2’s" in page
    assert visitor.get(f"{path}?says=high").status_code == 422
    stop = visitor.post(path, {"says": "6", "action": "plan"})
    assert "new stop" in stop.text
    assert called(shows.get(SHOW), "Wall 1").patch == wall.patch
    visitor.post(path, {"says": "40", "action": "plan"})
    assert called(shows.get(SHOW), "Wall 1").start == 40
    assert state(shows, "Wall 1") == "set"
    visitor.post(path, {"says": "6", "action": "now"})
    assert state(shows, "Wall 1") == "differs"
    assert visitor.post(path, {"says": "6", "action": "leave", "reason": " "}).status_code == 422
    visitor.post(path, {"says": "6", "action": "leave", "reason": "spare, not lit tonight"})
    assert "spare, not lit tonight" in visitor.get(f"/shows/{SHOW}/set/{wall.id}").text
    found = [
        f
        for f in shows.get(SHOW).analysis.findings
        if f.rule == "set-differs" and wall.id in f.fixtures
    ]
    assert [f.severity for f in found] == ["note"]


def test_a_display_seen_upside_down_is_right(visitor: Visitor, shows: ShowStore) -> None:
    """What is noted is what it really says; tapped segments are read whichever way up."""
    path = f"/shows/{SHOW}/set/{called(shows.get(SHOW), 'Canopy 1').id}/says"
    assert "Seen upside down, and right" in visitor.get(f"{path}?says=100").text
    tapped = visitor.get(f"{path}?lit=bc,abcdef,abcdef").text
    assert "Seen upside down, and right" in tapped
    # 017 with the paper turned: no digits upright
    over = visitor.get(f"{path}?lit=def,ef,abcdef").text
    assert "turned over it reads 017" in over
    assert visitor.get(f"{path}?lit=adg,b,c").status_code == 422


def test_several_at_once_after_seeing_what_it_claims(visitor: Visitor, shows: ShowStore) -> None:
    """A step for all of a kind; a whole position, for the plan that was seen."""
    saved = shows.get(SHOW)
    page = visitor.get(f"/shows/{SHOW}/set/place?at=Gatehouse").text
    left = [
        f
        for f in saved.show.fixtures
        if f.position == "Gatehouse" and str(state_of(saved.show, f)) == "to set"
    ]
    assert all(f'<th scope="row">{fixture.label}</th>' in page for fixture in left)
    arches = ",".join(str(called(saved, label).id) for label in ("Arch 1", "Arch 2"))
    visitor.post(
        f"/shows/{SHOW}/set/place/tick", {"fixtures": arches, "step": "firmware", "at": "Gatehouse"}
    )
    arch = called(shows.get(SHOW), "Arch 2")
    assert {tick.step for tick in arch.ticked} == {"firmware"}
    assert all(tick.by.who == "Crew" and tick.by.at for tick in arch.ticked)
    assert "prep-by" in visitor.get(f"/shows/{SHOW}/set/{arch.id}").text
    visitor.post(
        f"/shows/{SHOW}/set/place", {"at": "Gatehouse", "revision": shows.get(SHOW).revision}
    )
    assert all(state(shows, fixture.label) in ("set", "proven") for fixture in left)
    assert visitor.get(f"/shows/{SHOW}/set/place?at=Nowhere").status_code == 422


def test_steps_are_those_the_show_and_the_chart_want(visitor: Visitor, shows: ShowStore) -> None:
    """A step that is left out for the show is asked of nobody; a tick for another mode counts no
    more."""
    saved = shows.get(SHOW)
    reed = called(saved, "Reed 1").id
    assert "link it to the new one" in visitor.get(f"/shows/{SHOW}/set/{reed}").text
    visitor.post(f"/shows/{SHOW}/set/{reed}/tick", {"step": "mode", "done": "1"})
    mode = 'id="step-mode" aria-pressed="true"'
    assert mode in visitor.get(f"/shows/{SHOW}/set/{reed}").text
    current = shows.get(SHOW)
    shows.save(current, edits.change_mode(current.show, [reed], "4 channel"), who="Planner")
    assert mode not in visitor.get(f"/shows/{SHOW}/set/{reed}").text
    steps = ["reset", "listens", "mode", "name", "label", "safety bond"]
    visitor.post(f"/shows/{SHOW}/set/order", {"revision": shows.get(SHOW).revision, "step": steps})
    assert "link it to the new one" not in visitor.get(f"/shows/{SHOW}/set/{reed}").text


def test_a_preview_says_who_would_have_to_be_set_again(visitor: Visitor, shows: ShowStore) -> None:
    """In the preview of a layout, a mode and a mend, with positions and heights."""
    layout = visitor.get(
        f"/shows/{SHOW}/address/layout?school=spaced&spare=3&whom=Palm+House&start=1/1"
    ).text
    assert "3 fixtures that are set would have to be set again: 3 at Palm House (6 m up)." in layout
    ids = ",".join(str(f.id) for f in shows.get(SHOW).show.fixtures if f.position == "Palm House")
    change = visitor.get(f"/shows/{SHOW}/modes/change?ids={ids}&mode=26+channel").text
    assert "4 fixtures that are set would have to be set again: 4 at Palm House (6 m up)" in change


def codes(pdf: bytes) -> list[str]:
    """The texts of the square codes on the pages, read as a camera would."""
    found = []
    document = pypdfium2.PdfDocument(pdf)
    try:
        for page in document:
            image = page.render(scale=3).to_pil()
            found += [code.text for code in zxingcpp.read_barcodes(image)]
    finally:
        document.close()
    return found


@pytest.mark.parametrize("size", ["70x37", "63x38", "99x38", "48x25", "105x74"])
def test_the_code_on_a_label_opens_the_right_card(
    visitor: Visitor, shows: ShowStore, size: str
) -> None:
    """Every code on the sheet is read back and leads to its own fixture; an old label says so."""
    base = "http://localhost:5080"
    pdf = visitor.get(f"/shows/{SHOW}/set/labels.pdf?at=Gatehouse&size={size}&base={base}").data
    text = "".join(page.extract_text() for page in PdfReader(BytesIO(pdf)).pages)
    found = codes(pdf)
    gate = [f for f in shows.get(SHOW).show.fixtures if f.position == "Gatehouse" and f.start]
    assert len(found) == len(gate)
    opened = set()
    for code in found:
        assert code.startswith(f"{base}/c/{SHOW}/")
        parts = urlsplit(code)
        opened.add(visitor.get(f"{parts.path}?{parts.query}").headers["Location"])
    assert opened == {f"/shows/{SHOW}/set/{fixture.id}" for fixture in gate}
    assert f"rev. {shows.get(SHOW).revision}" in text
    assert all(fixture.label in text for fixture in gate)
    saved = shows.get(SHOW)
    shows.save(saved, edits.place(saved.show, gate[0].id, Address(4, 60)), who="Planner")
    old = urlsplit(next(code for code in found if f"/{gate[0].id}?" in code))
    visitor.get(f"{old.path}?{old.query}")
    assert (
        "This label is old: it says U4 001" in visitor.get(f"/shows/{SHOW}/set/{gate[0].id}").text
    )


def test_stickers_of_any_size_or_a_message(visitor: Visitor) -> None:
    """A free size is printed; one that an A4 sheet cannot hold, or is no number, is told and
    kept."""
    size = "columns=2&rows=5&width=90&height=50&left=10&top=10&across=5&down=2"
    ask = f"/shows/{SHOW}/set/labels.pdf?size=free&{size}"
    assert visitor.get(ask).mimetype == "application/pdf"
    wide = visitor.get(ask.replace("width=90", "width=120"))
    assert (wide.status_code, "an A4 sheet has 210 by 297 mm" in wide.text) == (422, True)
    assert 'value="120"' in wide.text
    assert "not a size" in visitor.get(ask.replace("width=90", "width=broad")).text
    assert "Use 1 to 10" in visitor.get(f"{ask}&first=11").text
    for base in (
        "javascript:x",
        "http://evil.example",
        "http://fence.test@evil.example",
        "http://localhost/x",
        "http://localhost?x",
        "http://localhost:0",
        "ftp://localhost",
    ):
        assert "lead to this Fence only" in visitor.get(f"{ask}&base={base}").text, base


def test_sheets_to_tick(visitor: Visitor, shows: ShowStore) -> None:
    """A page for each position, in the order of the walk; of those to go back to on request."""
    pages = PdfReader(BytesIO(visitor.get(f"/shows/{SHOW}/set/sheets.pdf").data)).pages
    texts = [page.extract_text() for page in pages]
    assert "Gatehouse · 9 m up" in texts[0]
    assert all(
        any(f.label in text for text in texts) for f in shows.get(SHOW).show.fixtures if f.start
    )
    again = visitor.get(f"/shows/{SHOW}/set/sheets.pdf?only=again").data
    text = "".join(page.extract_text() for page in PdfReader(BytesIO(again)).pages)
    assert all(label in text for label in ("Canopy 1", "Bough 4", "Fern 6"))
    assert "Arch 1" not in text


def test_one_at_a_time(visitor: Visitor, shows: ShowStore) -> None:
    """One alone, confirmed by serial or by what it shows, then the next; the wrong one in the hand
    is noticed."""
    saved = shows.get(SHOW)
    path = f"/shows/{SHOW}/set/round"
    assert "Plug in Spore 1 alone" in visitor.get(path).text
    spore = called(saved, "Spore 1")
    form = {"fixture": spore.id, "mode": spore.mode, "patch": patch_words(spore.patch)}
    assert "Confirm it" in visitor.post(path, form).text
    visitor.post(path, {**form, "serial": "NB-017"})
    assert "Plug in Spore 2 alone" in visitor.get(path).text
    assert called(shows.get(SHOW), "Spore 1").serial == "NB-017"
    other = called(saved, "Spore 2")
    form = {"fixture": other.id, "mode": other.mode, "patch": patch_words(other.patch)}
    assert "is Spore 1’s already" in visitor.post(path, {**form, "serial": "NB-017"}).text
    wrong = visitor.post(path, {**form, "fixture": spore.id, "serial": "NB-018"})
    assert "another one is plugged in" in wrong.text


def test_the_round_has_every_step_of_the_card(visitor: Visitor, shows: ShowStore) -> None:
    """All are ticked there by hand, for whose turn it is, and the turn stays."""
    spore = called(shows.get(SHOW), "Spore 2")
    path = f"/shows/{SHOW}/set/round?turn={spore.id}"
    card = STEPS.findall(visitor.get(f"/shows/{SHOW}/set/{spore.id}").text)
    assert len(card) > 4
    assert STEPS.findall(visitor.get(path).text) == [(step, "false") for step, _ in card]
    for step, _ in card:
        asked = {"step": step.replace("-", " "), "done": "1", "round": "1"}
        answer = visitor.post(f"/shows/{SHOW}/set/{spore.id}/tick", asked)
        assert answer.headers["Location"] == path
    assert STEPS.findall(visitor.get(path).text) == [(step, "true") for step, _ in card]
    turned = {"turned": "1", "round": "1"}
    answer = visitor.post(f"/shows/{SHOW}/set/{spore.id}/turned", turned)
    assert answer.headers["Location"] == path
    assert "upside down" in visitor.get(path).text


@pytest.mark.parametrize(
    ("code", "label"),
    [
        ("86", "Vine 1"),
        ("vine 2", "Vine 2"),
        ("U4 101", "Vine 1"),
        ("http://x/c/3/59?a=4.101", "Vine 1"),
        ("4/106", "Vine 2"),
    ],
)
def test_a_label_is_opened_by_what_stands_on_it(
    visitor: Visitor, shows: ShowStore, code: str, label: str
) -> None:
    """By number, name, address or its code."""
    answer = visitor.get(f"/shows/{SHOW}/set/open", query_string={"code": code})
    assert answer.headers["Location"] == f"/shows/{SHOW}/set/{called(shows.get(SHOW), label).id}"


def test_a_label_of_nobody_is_told(visitor: Visitor) -> None:
    """What names nobody, and what names several."""
    assert visitor.get(f"/shows/{SHOW}/set/open?code=Nobody").status_code == 404
    assert "choose one" in visitor.get(f"/shows/{SHOW}/set/open?code=U4+257").text


def test_an_empty_show_says_the_first_step(visitor: Visitor, shows: ShowStore) -> None:
    """No page of the step fails without fixtures, nor without addresses."""
    saved = shows.create(Show("Bare"), who="T")
    for path in ("", "/order", "/labels", "/round", "/open", "/labels.pdf", "/sheets.pdf"):
        assert visitor.get(f"/shows/{saved.id}/set{path}").status_code == 200
    assert "Add fixtures" in visitor.get(f"/shows/{saved.id}/set").text
    profile = shipped_profiles()[0]
    bare = edits.add_fixtures(saved.show, edits.AddRun(profile, profile.modes[0].name, 2, "A 1"))
    saved = shows.save(saved, edits.unplace(bare, [1, 2]), who="T")
    for path in ("", "/1", "/1/says", "/place?at=", "/labels?fixture=1", "/labels.pdf?fixture=1"):
        assert visitor.get(f"/shows/{saved.id}/set{path}").status_code == 200
    assert "nothing to set" in visitor.get(f"/shows/{saved.id}/set").text


def test_a_walk_of_2000_is_a_page_that_a_phone_takes(visitor: Visitor, shows: ShowStore) -> None:
    """Positions beyond the first hundred or so are folded; the page stays below 150 kB."""
    profile = {p.id: p for p in shipped_profiles()}["tansy-pond-wash"]
    show = edits.set_desk(Show("Large"), clean_show().desk)
    for place in range(40):
        run = edits.AddRun(
            profile,
            "5 channel",
            50,
            f"L{place} 1",
            None,
            f"Truss {place}",
            1 + place,
            Address(1 + place, 1),
        )
        show = edits.add_fixtures(show, run)
    saved = shows.create(show, who="T")
    page = visitor.get(f"/shows/{saved.id}/set").data
    assert len(page) < 150_000
    assert b"List 50 fixtures" in page
    assert len(visitor.get(f"/shows/{saved.id}/set/7").data) < 60_000
