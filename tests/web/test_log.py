"""The step Log on its pages: from where a step came, filters, notes, snapshots, comparing and going
back."""

from __future__ import annotations

from datetime import timedelta
from html import unescape
from re import findall

from fence.core import edits
from fence.store.shows import ShowStore
from tests.conftest import Visitor


def test_every_step_says_who_made_it_and_from_where(visitor: Visitor, shows: ShowStore) -> None:
    """A step made on a page carries the name of the person and of the step of the work; filters
    narrow by them."""
    visitor.post("/who", {"who": "Ladder crew A"})
    visitor.post("/shows/1/rig/3", form_of(visitor, "/shows/1/rig/3") | {"note": "by the door"})
    page = visitor.get("/shows/1/log").text
    assert "Note of Palm 3" in page
    assert "Ladder crew A · Rig" in page
    assert "Note of Palm 3" in visitor.get("/shows/1/log?fixture=palm+3&origin=Rig").text
    assert "Nothing on the log fits that." in visitor.get("/shows/1/log?origin=Lines").text
    unknown = visitor.get("/shows/1/log?fixture=nobody")
    assert unknown.status_code == 422
    assert "No fixture is called “nobody” now" in unescape(unknown.text)
    assert "is not a day" in visitor.get("/shows/1/log?day=soon").text


def form_of(visitor: Visitor, path: str) -> dict[str, str]:
    """The values of a page's form, as they stand there."""
    text = visitor.get(path).text
    fields = dict(findall(r'<input[^>]*?name="(\w+)"[^>]*?value="([^"]*)"', text))
    fields |= dict(
        findall(
            r'<select[^>]*name="(\w+)".*?<option selected value="([^"]*)"', text.replace("\n", "")
        )
    )
    return {name: unescape(value) for name, value in fields.items() if name != "csrf_token"}


def test_two_snapshots_and_the_way_back(visitor: Visitor, shows: ShowStore) -> None:
    """A named snapshot is compared with now; going back is one step, and undo takes it back."""
    visitor.post("/shows/1/log/snapshots", {"name": "as hung", "revision": "1"})
    before = shows.get(1)
    visitor.post("/shows/1/rig/3", form_of(visitor, "/shows/1/rig/3") | {"label": "Palm three"})
    page = visitor.get("/shows/1/log/compare?first=as+hung").text
    assert "1 fixture differs" in page
    assert "was Palm 3" in page
    assert "Go back to as hung" in page
    visitor.post("/shows/1/log/back", {"revision": shows.get(1).revision, "to": "1", "seen": "1"})
    back = shows.get(1)
    assert back.show.fixtures == before.show.fixtures
    assert shows.history(1)[0].revision == before.revision + 2
    visitor.post("/shows/1/undo", {"revision": back.revision})
    assert shows.get(1).show.fixture(3).label == "Palm three"
    wrong = visitor.get("/shows/1/log/compare?first=tomorrow")
    assert wrong.status_code == 422
    assert "“tomorrow” is not a snapshot of this show" in unescape(wrong.text)


def test_a_note_stands_by_its_entry_and_a_name_can_be_forgotten(
    visitor: Visitor, shows: ShowStore
) -> None:
    """Notes come back to the page as it was narrowed; a name that is taken is told."""
    (entry,) = findall(r'id="entry-(\d+)"', visitor.get("/shows/1/log").text)
    done = visitor.post(
        f"/shows/1/log/entries/{entry}/note?who=Fence+demo", {"note": "first of all"}
    )
    assert done.headers["Location"] == f"/shows/1/log?who=Fence+demo#entry-{entry}"
    assert "first of all" in visitor.get("/shows/1/log").text
    assert visitor.post("/shows/1/log/entries/999/note", {"note": "x"}).status_code == 422
    visitor.post("/shows/1/log/snapshots", {"name": "as hung", "revision": "1"})
    assert (
        visitor.post("/shows/1/log/snapshots", {"name": "as hung", "revision": "1"}).status_code
        == 422
    )
    assert visitor.post("/shows/1/log/snapshots", {"name": " ", "revision": "1"}).status_code == 422
    (snapshot,) = findall(r"/snapshots/(\d+)/forget", visitor.get("/shows/1/log").text)
    visitor.post(f"/shows/1/log/snapshots/{snapshot}/forget", {})
    assert "as hung</b>" not in visitor.get("/shows/1/log").text


def test_a_finding_is_let_stand_for_a_reason(visitor: Visitor, shows: ShowStore) -> None:
    """It leaves the count, stands in the list and on the log with its reason, and is taken back
    there."""
    stops = shows.get(2).analysis.verdict.stops
    finding = shows.get(2).analysis.findings[0]
    form = {"finding": finding.key, "revision": shows.get(2).revision}
    refused = visitor.post("/shows/2/findings/waive", {**form, "reason": " "})
    assert "A reason is needed" in unescape(refused.text)
    visitor.post("/shows/2/findings/waive", {**form, "reason": "the second one is a spare"})
    assert shows.get(2).analysis.verdict.stops == stops - 1
    panel = visitor.get("/shows/2/findings").text
    assert "the second one is a spare" in panel
    log = visitor.get("/shows/2/log").text
    assert "Let stand, since the second one is a spare" in log
    assert '<p class="waiver"><b>the second one is a spare</b>' in log
    visitor.post(
        "/shows/2/findings/unwaive",
        {"finding": finding.key, "revision": shows.get(2).revision, "seen": "1"},
    )
    assert shows.get(2).analysis.verdict.stops == stops
    gone = visitor.post(
        "/shows/2/findings/unwaive", {"finding": finding.key, "revision": shows.get(2).revision}
    )
    assert "is not accepted" in unescape(gone.text)


def test_a_show_is_handed_over_as_a_document_and_as_an_archive(
    visitor: Visitor, shows: ShowStore
) -> None:
    """Both come as files that are named after the show; a rig that no paper holds is told."""
    document = visitor.get("/shows/2/log/handover.pdf")
    assert (document.data[:5], document.headers["Content-Type"]) == (b"%PDF-", "application/pdf")
    assert (
        'filename="glasshouse-after-dark-handover.pdf"' in document.headers["Content-Disposition"]
    )
    assert visitor.get("/shows/2/log/handover.zip").data[:2] == b"PK"
    assert visitor.get("/shows/2/log/handover.doc").status_code == 404
    saved = shows.get(1)
    many = edits.AddRun(
        saved.show.profiles[0], saved.show.profiles[0].modes[0].name, 2000, "N 1", None, "", 1, None
    )
    shows.save(saved, edits.add_fixtures(saved.show, many), who="Test")
    refused = visitor.get("/shows/1/log/handover.pdf")
    assert refused.status_code == 422
    assert "Use up to 2000" in refused.text


def test_what_stands_up_to_a_day_is_back_after_it(visitor: Visitor, shows: ShowStore) -> None:
    """A finding that is let stand with a day is back once it is over, and the log says so; undo
    passes over that. No longer letting a stop stand is shown first, as any new stop is."""
    saved = shows.get(2)
    clash = next(finding for finding in saved.analysis.findings if finding.rule == "overlap")
    stops, now = saved.analysis.verdict.stops, shows.clock()
    fields = {"revision": saved.revision, "finding": clash.key, "reason": "until the focus"}
    for day in ("soon", "2001-01-01"):
        told = visitor.post("/shows/2/findings/waive", {**fields, "until": day})
        assert told.status_code == 422
        assert "Use " in told.text or "is not a day" in told.text
    day = (now + timedelta(days=3)).date().isoformat()
    assert visitor.post("/shows/2/findings/waive", {**fields, "until": day}).status_code == 302
    assert shows.get(2).analysis.verdict.stops == stops - 1
    assert f"until {day}" in visitor.get("/shows/2/log").text
    shows.clock = lambda: now + timedelta(days=2)
    visitor.get("/shows/2/log")
    assert shows.get(2).analysis.verdict.stops == stops - 1
    shows.clock = lambda: now + timedelta(days=5)
    assert "No longer accepted" in visitor.get("/shows/2/log").text
    assert shows.get(2).analysis.verdict.stops == stops
    assert shows.state_at(2, saved.revision + 1).show.waivers
    assert "Let stand" in (shows.steps(2)[0] or shows.history(2)[0]).words

    waived = shows.save(shows.get(2), edits.waive(shows.get(2).show, clash, "for good"), who="Test")
    told = visitor.post(
        "/shows/2/findings/unwaive", {"revision": waived.revision, "finding": clash.key}
    )
    assert told.status_code == 200
    assert "new stop" in told.text
    seen = {"revision": waived.revision, "finding": clash.key, "seen": "1"}
    assert visitor.post("/shows/2/findings/unwaive", seen).status_code == 302
    assert shows.get(2).analysis.verdict.stops == stops
