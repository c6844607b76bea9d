"""Limits of pages on both sides: how much is shown, kept ahead, printed. Large ones are made small
here."""

from __future__ import annotations

import json
import re

import pytest

from fence.cli import checking
from fence.core import edits
from fence.core.checks import findings_of
from fence.core.model.errors import EditError
from fence.core.setting.walk import walk
from fence.demo import demo_show
from fence.store.journal import Journal, Wanted
from fence.store.shows import ShowStore
from fence.web.set import page as set_page
from tests.conftest import Visitor

SHOW = 3


def kept(visitor: Visitor, path: str) -> list[int]:
    """The fixtures whose cards a page has kept for when the network is gone."""
    found = re.search(r"data-keep='([^']*)'|data-keep=\"([^\"]*)\"", visitor.get(path).text)
    assert found is not None
    pages = json.loads((found[1] or found[2]).replace("&#34;", '"').replace("&quot;", '"'))
    return list(
        dict.fromkeys(int(n) for page in pages for n in re.findall(r"/set/(\d+)(?:\?|$)", page))
    )


@pytest.mark.parametrize("most", [1, 2, 5])
def test_so_many_cards_are_kept_ahead(
    visitor: Visitor, shows: ShowStore, monkeypatch: pytest.MonkeyPatch, most: int
) -> None:
    """From the list the first that are open, from a card that one and those after it: so many, and
    not one more."""
    monkeypatch.setattr(set_page, "CARDS_AHEAD", most)
    whole = walk(shows.get(SHOW).show)
    ahead = [fixture.id for fixture in whole.ahead(None, 1000)]
    assert len(ahead) > 6
    assert kept(visitor, f"/shows/{SHOW}/set") == ahead[:most]
    here = ahead[3]
    after = [fixture.id for fixture in whole.ahead(here, 1000)]
    assert kept(visitor, f"/shows/{SHOW}/set/{here}") == [here, *after[:most]]


PRINTED = {
    "labels": ("fence.web.set.labels.MOST_LABELS", "/shows/1/set/labels.pdf", "too many at once"),
    "sheets": ("fence.web.set.labels.MOST_LABELS", "/shows/1/set/sheets.pdf", "too many at once"),
    "list": ("fence.web.lists.views.MOST_ON_PAPER", "/shows/1/lists/rig.pdf", "a PDF takes up to"),
    "papers": (
        "fence.web.log.handing.MOST_FIXTURES",
        "/shows/1/log/handover.pdf",
        "Use up to",
    ),
}


@pytest.mark.parametrize("name", PRINTED)
def test_so_many_fixtures_go_on_paper(
    visitor: Visitor, shows: ShowStore, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    """With just as many as are accepted it is printed; with one more it is told."""
    place, path, words = PRINTED[name]
    show = shows.get(1).show
    stops = sum(len(one.stops) for one in walk(show).places)
    count = stops if "labels" in place else len(show.fixtures)
    monkeypatch.setattr(place, count)
    assert visitor.get(path).mimetype == "application/pdf"
    monkeypatch.setattr(place, count - 1)
    told = visitor.get(path)
    assert (told.status_code, words in told.text) == (422, True)


def test_so_many_are_added_at_once(visitor: Visitor, shows: ShowStore) -> None:
    """Two thousand in one run, and not one more."""
    show = shows.get(1).show
    profile = show.profiles[0]
    run = edits.AddRun(profile, profile.modes[0].name, 2000, "X1")
    assert len(edits.add_fixtures(show, run).fixtures) == len(show.fixtures) + 2000
    for quantity in (0, 2001):
        with pytest.raises(EditError, match="Use 1 to 2000"):
            edits.add_fixtures(show, edits.AddRun(profile, profile.modes[0].name, quantity, "X1"))


def test_so_many_findings_are_printed(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """All where they are as many as are printed, else those and how many more."""
    show = demo_show()
    count = len(findings_of(show))
    for most, more in (
        (count, ""),
        (count + 1, ""),
        (count - 1, "… and 1 more"),
        (1, f"… and {count - 1} more"),
    ):
        monkeypatch.setattr(checking, "MOST_PRINTED", most)
        checking.print_findings(show)
        printed = capsys.readouterr().out
        assert len(re.findall(r"^(?:stop|caution|note): ", printed, re.M)) == min(most, count)
        assert (more in printed) if more else ("… and" not in printed)


@pytest.mark.parametrize(("most", "words"), [(1, "At least"), (10_000, "")])
def test_a_count_that_is_cut_says_so(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], most: int, words: str
) -> None:
    """Of findings that are no more counted it is said that there are at least so many."""
    monkeypatch.setattr(checking, "MOST_FINDINGS", most)
    checking.print_findings(demo_show())
    assert ("At least" in capsys.readouterr().out) == bool(words)


def test_pages_of_the_log(shows: ShowStore, monkeypatch: pytest.MonkeyPatch) -> None:
    """A page holds so many entries, and says whether there are more, at just as many and at one
    more."""
    monkeypatch.setattr("fence.store.journal.PAGE", 5)
    journal = Journal(shows.engine, shows.clock)
    saved = shows.create(demo_show(), who="A")
    for number in range(1, 7):
        found = journal.page(saved.id, Wanted())
        assert (len(found.entries), found.more) == (min(number, 5), number > 5)
        shows.tell(saved.id, f"word {number}", who="A", origin="Log")


def test_named_snapshots(shows: ShowStore, monkeypatch: pytest.MonkeyPatch) -> None:
    """So many, and no more until one is forgotten."""
    monkeypatch.setattr("fence.store.journal.MOST_SNAPSHOTS", 2)
    journal = Journal(shows.engine, shows.clock)
    for name in ("one", "two"):
        journal.name_snapshot(1, 1, name, who="A")
    with pytest.raises(EditError, match="up to 2 snapshots"):
        journal.name_snapshot(1, 1, "three", who="A")
