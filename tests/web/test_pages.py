"""Pages by the test client: what they show, what they refuse, what they never leak."""

from __future__ import annotations

import io
import re
from collections import Counter
from dataclasses import replace
from html.parser import HTMLParser
from random import Random

import pytest
from flask import Flask

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.library import shipped_profiles
from fence.store.shows import ShowStore
from tests.conftest import Visitor
from tests.examples import DEEP

PATHS = [
    "/",
    "/shows/2/charts",
    "/shows/2/charts/paste",
    "/shows/2/charts/tansy-pond-wash/edit",
    "/shows/2/charts/tansy-pond-wash/update",
    "/shows/2/charts/tansy-pond-wash/modes",
    "/shows/2/charts/tansy-pond-wash/revisions/1",
    "/shows/2/charts/probe",
    "/shows/2/charts/files/words",
    "/shows/2/modes?goal=within&within=3",
    "/shows/2/modes/change?recommended=1",
    "/shows/2/rig",
    "/shows/2/rig?q=lily&sort=address&dir=down&position=Lily+Pond",
    "/shows/2/rig/add",
    "/shows/2/rig/28",
    "/shows/2/address",
    "/shows/2/address?u=3&pick=53",
    "/shows/2/address?pick=28&turned=1",
    "/shows/2/address?u=99&pick=9999&part=7",
    "/shows/2/address/overview",
    "/shows/2/address/repair",
    "/shows/2/address/universes",
    "/shows/2/address/universes/1",
    "/shows/2/address?u=2&pick=28&also=29,30",
    "/shows/2/address/layout?school=round&whom=Lily+Pond",
    "/shows/2/address/trial?tried=1&kind=dibber-furrow+%7C+24+channel&quantity=12",
    "/shows/2/address/sheet/2",
    "/shows/2/address/room?length=24",
    "/shows/2/address/ways",
    "/shows/2/address/block/compact?u=2",
    "/shows/2/findings",
    "/shows/2/settings",
    "/shows/2/rig/find?find=2/14",
]


class Tags(HTMLParser):
    """Collects what a content policy would block, and links."""

    def __init__(self) -> None:
        super().__init__()
        self.inline: list[str] = []
        self.links: list[str] = []
        self.ids: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        names = dict(attrs)
        if "style" in names or tag == "style" or any(name.startswith("on") for name in names):
            self.inline.append(self.get_starttag_text() or "")
        if tag == "script" and "src" not in names and names.get("type") != "application/json":
            self.inline.append(self.get_starttag_text() or "")
        for name in ("href", "src", "hx-get"):
            if names.get(name):
                self.links.append(str(names[name]))
        if names.get("id"):
            self.ids.append(str(names["id"]))


def tags(text: str) -> Tags:
    parser = Tags()
    parser.feed(text)
    return parser


@pytest.mark.parametrize("path", PATHS)
def test_pages_stand_and_keep_the_policy(visitor: Visitor, path: str) -> None:
    """Every page answers with strict headers, no inline script or style, no id twice, no link to
    elsewhere."""
    response = visitor.get(path)
    assert response.status_code == 200
    policy = response.headers["Content-Security-Policy"]
    assert "unsafe" not in policy
    assert "script-src 'self'" in policy
    assert response.headers["X-Content-Type-Options"] == "nosniff"
    assert response.headers["X-Frame-Options"] == "DENY"
    found = tags(response.text)
    assert found.inline == []
    assert len(found.ids) == len(set(found.ids))
    assert all(link.startswith(("/", "#")) for link in found.links)


ALIKE = 8 * DEEP
"""How many links to one place that differ only in what they ask for are followed."""


def test_no_link_is_dead(app: Flask, visitor: Visitor) -> None:
    """The links of every page lead to pages."""
    links = {link.split("#")[0] for path in PATHS for link in tags(visitor.get(path).text).links}
    table, followed = app.url_map.bind("localhost"), Counter[str]()
    for link in Random(1).sample(sorted(links - {""}), len(links - {""})):
        place, _ = table.match(link.split("?")[0])
        followed[place] += 1
        if followed[place] > ALIKE:
            continue
        assert visitor.get(link).status_code in (200, 302), link


def test_writes_without_a_token_are_refused(app: Flask, shows: ShowStore) -> None:
    """A form from elsewhere changes nothing."""
    before = shows.get(2)
    for path in (
        "/shows/2/address/nudge",
        "/shows/2/delete",
        "/shows",
        "/shows/2/undo",
        "/import",
        "/theme",
    ):
        response = app.test_client().post(
            path, data={"revision": 1, "fixture": 1, "by": 1, "name": "x"}
        )
        assert response.status_code == 400
        assert "Traceback" not in response.text
    assert shows.get(2) == before


def step(shows: ShowStore, **values: object) -> dict[str, object]:
    return {"revision": shows.get(2).revision, **values}


def test_nudge_answers_with_the_changed_pieces(visitor: Visitor, shows: ShowStore) -> None:
    """A nudge by htmx answers with the board and those parts of the frame that changed, and is
    saved."""
    response = visitor.post("/shows/2/address/nudge", step(shows, fixture=28, by=2), htmx=True)
    assert response.status_code == 200
    assert shows.get(2).show.fixture(28).start == 16
    assert {"board", "verdict", "undo", "work-steps", "card-2"} <= set(tags(response.text).ids)
    assert "4 stops" in response.text
    assert "<html" not in response.text


def test_the_second_editor_is_told_and_can_go_on(visitor: Visitor, shows: ShowStore) -> None:
    """An edit from an old page of the same fixture is refused with what changed and a form that
    does it on top."""
    old = step(shows, fixture=28, address="2/400", u=2)
    visitor.post("/shows/2/address/nudge", step(shows, fixture=28, by=1))
    told = visitor.post("/shows/2/address/move", old, htmx=True)
    assert told.status_code == 409
    assert told.headers["HX-Retarget"] == "#notice"
    assert "moved from U2 014 to U2 015" in told.text
    assert "was changed meanwhile as well" in told.text
    assert shows.get(2).show.fixture(28).start == 15
    fields = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', told.text))
    assert fields["address"] == "2/400"
    action = re.search(r'action="([^"]+)"', told.text)
    assert action is not None
    visitor.post(action[1], dict(fields))
    assert shows.get(2).show.fixture(28).start == 400


def test_an_old_undo_is_not_offered_again(visitor: Visitor, shows: ShowStore) -> None:
    """An undo from an old page changes nothing and is not repeated: it would take back someone
    else's step."""
    old = shows.get(2).revision
    visitor.post("/shows/2/address/nudge", step(shows, fixture=46, by=1))
    told = visitor.post("/shows/2/undo", {"revision": old})
    assert told.status_code == 409
    assert "Storm moved" in told.text
    assert "on top of it" not in told.text
    assert shows.get(2).show.fixture(46).start == 302


REFUSED = [
    ("/shows/2/address/move", {"fixture": 28, "address": "12x"}, "is not an address"),
    ("/shows/2/address/move", {"fixture": 28, "address": "2/513"}, "no slot 513"),
    ("/shows/2/address/move", {"fixture": 9999, "address": "1"}, "no longer in the show"),
    ("/shows/2/address/nudge", {"fixture": 28, "by": "x"}, "Slots"),
    ("/shows/2/address/nudge", {"fixture": 28, "by": -100}, "would leave"),
    ("/shows/2/address/nudge", {"fixture": 20, "by": 1}, "pinned"),
    ("/shows/2/address/mend", {"finding": "gone", "mend": 0}, "no longer there"),
    ("/shows/2/modes/change", {"ids": 28, "mode": "99 channel"}, "Accepted"),
    ("/shows/99/address/nudge", {"fixture": 1, "by": 1}, "no such show"),
]


@pytest.mark.parametrize("htmx", [True, False], ids=["fragment", "page"])
@pytest.mark.parametrize(("path", "data", "told"), REFUSED)
def test_refusals_have_one_shape(
    visitor: Visitor, shows: ShowStore, path: str, data: dict[str, object], told: str, htmx: bool
) -> None:
    """What is refused is said in one sentence, as a fragment or a page, and nothing is changed."""
    before = shows.get(2)
    response = visitor.post(path, step(shows, **data), htmx=htmx)
    assert response.status_code in (404, 422)
    assert told in response.text
    assert ('role="alert"' in response.text) == htmx
    assert shows.get(2) == before


def test_bulk_change_keeps_what_was_typed(visitor: Visitor, shows: ShowStore) -> None:
    """A refused bulk change shows why, with the fixtures still picked and the fields as typed."""
    data = step(shows, picked=[1, 28], mode="5 channel", label="Moss 1", action="change")
    response = visitor.post("/shows/2/rig/bulk", data)
    assert response.status_code == 422
    assert "Palm 1 has no mode “5 channel”" in response.text
    assert 'value="Moss 1"' in response.text
    assert len(re.findall(r'name="picked"[^>]* checked', response.text)) == 2
    done = visitor.post(
        "/shows/2/rig/bulk",
        step(shows, picked=[1, 28], label="Moss 1", number=500, action="change"),
    )
    assert done.status_code == 302
    assert [(f.number, f.label) for f in shows.get(2).show.fixtures if f.id in (1, 28)] == [
        (500, "Moss 1"),
        (501, "Moss 2"),
    ]


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        ({"quantity": "many"}, "“many” is not a whole number"),
        ({"quantity": "0"}, "Accepted are 1 to 2000"),
        ({"label": ""}, "A label is needed"),
        ({"start": "here"}, "is not an address"),
        ({"kind": "gone | gone"}, "Choose a fixture"),
    ],
)
def test_adding_with_a_mistake_keeps_what_was_typed(
    visitor: Visitor, shows: ShowStore, changes: dict[str, str], told: str
) -> None:
    """A run that cannot be added is refused beside its field with everything kept."""
    kind = "tansy-pond-wash | 5 channel"
    data = {
        "kind": kind,
        "quantity": "3",
        "label": "Moss 1",
        "position": "Rill bank",
        "universe": "2",
        **changes,
    }
    response = visitor.post("/shows/2/rig/add", step(shows, **data))
    assert response.status_code == 422
    assert told in response.text
    assert 'value="Rill bank"' in response.text
    assert len(shows.get(2).show.fixtures) == 64


def test_strange_labels_are_shown_safely(visitor: Visitor, shows: ShowStore) -> None:
    """Markup, quotes, emoji, endless and right-to-left labels appear as text on every page and in
    every file."""
    saved = shows.get(2)
    labels = ["<script>alert(1)</script>", "\"'><img src=x>", "🌿" * 30, "x" * 300, "شجرة النخيل"]
    show = saved.show
    for fixture_id, label in zip((28, 27, 1, 2, 3), labels, strict=True):
        show = edits.rename(show, fixture_id, label)
    shows.save(saved, show, who="<b>me</b>")
    for path in [
        *PATHS,
        "/shows/2/rig/find?find=x",
        "/shows/2/address?pick=1",
        "/shows/2/address?pick=27",
    ]:
        text = visitor.get(path).text
        assert "<script>alert" not in text
        assert "<img src=x" not in text
        assert tags(text).inline == []


def test_a_page_does_not_grow_with_other_universes(visitor: Visitor, shows: ShowStore) -> None:
    """The Address page of one universe is as large in a show of 64 universes as in a show of 4."""
    profile = next(p for p in shipped_profiles() if p.id == "tansy-pond-wash")
    sizes = []
    for universes in (4, 64):
        show = Show("Big")
        for number in range(1, universes + 1):
            show = edits.add_universe(show, number)
            run = edits.AddRun(
                profile, "10 channel", 31, f"F{number}-1", number * 100, start=Address(number, 1)
            )
            show = edits.add_fixtures(show, run)
        saved = shows.create(show, who="A")
        sizes.append(len(visitor.get(f"/shows/{saved.id}/address?u=2").text))
    assert abs(sizes[1] - sizes[0]) < 200
    assert sizes[1] < 400_000


def test_large_rigs_are_listed_in_pieces(visitor: Visitor, shows: ShowStore) -> None:
    """A list of 2,000 fixtures shows the first ones, says so, and filters all."""
    profile = shipped_profiles()[0]
    saved = shows.create(
        edits.add_fixtures(Show("Big"), edits.AddRun(profile, "2 channel", 2000, "F1")), who="A"
    )
    text = visitor.get(f"/shows/{saved.id}/rig").text
    assert "2000 of 2000 shown, the first 140 listed" in text
    assert "1 of 2000 shown" in visitor.get(f"/shows/{saved.id}/rig?q=F1999").text


# ---- files


def upload(visitor: Visitor, name: str, data: bytes, **extra: object):  # type: ignore[no-untyped-def]
    return visitor.post("/import", {"file": (io.BytesIO(data), name), **extra})


def test_import_row_by_row_then_all_or_nothing(visitor: Visitor, shows: ShowStore) -> None:
    """Bad rows are shown with their reason, can be mended in place, and nothing is saved before it
    is said so."""
    data = b"label,channels,address\nA,5,1\nB,x,6\nC,5,600\n"
    page = upload(visitor, "rig.csv", data).headers["Location"]
    text = visitor.get(page).text
    assert "1 fixture understood" in text
    assert "“x” in channels" in text
    assert "“600” in address" in text
    before = len(shows.list_shows())
    refused = visitor.post(f"{page}/save", {"name": "Mine"})
    assert (refused.status_code, "2 rows are refused" in refused.text) == (422, True)
    visitor.post(f"{page}/rows", {"line": [3, 4], "text": ["B,5,6", "C,5,x"]})
    assert "2 fixtures understood" in visitor.get(page).text
    assert len(shows.list_shows()) == before
    assert visitor.post(f"{page}/save", {"name": "", "leave_out": "1"}).status_code == 422
    assert visitor.post(f"{page}/save", {"name": "Mine", "leave_out": "1"}).status_code == 302
    assert [f.label for f in shows.find("Mine").show.fixtures] == ["A", "B"]
    assert visitor.get(page).status_code == 404


def test_import_into_a_show_is_one_step(visitor: Visitor, shows: ShowStore) -> None:
    """Rows can join an open show, in one edit that undo takes back."""
    before = shows.get(2)
    page = upload(visitor, "rig.csv", b"label,channels\nA,5\n", into=2).headers["Location"]
    done = visitor.post(page.replace("?", "/save?"), {"into": 2, "revision": before.revision})
    assert done.status_code == 302
    assert len(shows.get(2).show.fixtures) == 65
    visitor.post("/shows/2/undo", {"revision": shows.get(2).revision})
    assert shows.get(2).show == replace(before.show, next_id=before.show.next_id + 1)


@pytest.mark.parametrize(
    ("name", "data", "told"),
    [
        ("rig.csv", b"a,b\n\x81\x8d", "not UTF-8"),
        ("rig.xls", b"x", "neither .csv, .json, .xlsx nor .mvr"),
        ("show.json", b"[" * 100_000, "recursion"),
        ("rig.csv", b"label,channels\n" + b"A,5\n" * 4_500_000, "Use up to 16 MB"),
        ("rig.csv", b"label,channels\n" + b"A,5\n" * 6_000_000, "files up to 16 MB"),
    ],
)
def test_unreadable_uploads_are_one_message(
    visitor: Visitor, shows: ShowStore, name: str, data: bytes, told: str
) -> None:
    """A file that cannot be read is a message and leaves nothing behind."""
    response = upload(visitor, name, data)
    assert response.status_code in (413, 422)
    assert told in response.text
    assert len(shows.list_shows()) == 3


def test_exports_are_files(visitor: Visitor) -> None:
    """CSV and JSON come as downloads with a plain name."""
    for ending in ("csv", "json"):
        response = visitor.get(f"/shows/2/export.{ending}")
        assert (
            response.headers["Content-Disposition"]
            == f'attachment; filename="glasshouse-after-dark.{ending}"'
        )
        assert "Palm 1" in response.text


def test_theme_and_name_are_kept_by_the_browser(visitor: Visitor, shows: ShowStore) -> None:
    """The theme and the name on the log stay with the person's browser."""
    assert 'data-bs-theme="dark"' in visitor.get("/").text
    visitor.post("/theme", {})
    assert 'data-bs-theme="light"' in visitor.get("/").text
    visitor.post("/who", {"who": "Ladder crew A"})
    visitor.post("/shows/2/address/nudge", step(shows, fixture=1, by=1))
    assert shows.history(2)[0].who == "Ladder crew A"


def test_an_unexpected_error_is_no_stack_trace(
    app: Flask, visitor: Visitor, monkeypatch: pytest.MonkeyPatch
) -> None:
    """If Fence itself fails, the person gets a sentence and the log the details."""
    app.config["TESTING"] = False
    app.config["PROPAGATE_EXCEPTIONS"] = False
    monkeypatch.setattr("fence.web.charts.views.frame", lambda *_: 1 / 0)
    app.logger.disabled = True
    response = visitor.get("/shows/2/charts")
    assert response.status_code == 500
    assert "Something went wrong in Fence" in response.text
    assert "ZeroDivisionError" not in response.text
