"""Several people on one show: edits of different things join, edits of one thing are told, nothing
is lost."""

from __future__ import annotations

import dataclasses
import re
import threading
from collections.abc import Callable
from dataclasses import replace
from html import unescape
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.checks import Severity, analyse
from fence.core.edits.difference import Change, difference
from fence.core.edits.merge import merge
from fence.core.model.address import Address
from fence.core.model.desk import Desk
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.demo import demo_show
from fence.store.database import open_engine
from fence.store.shows import SavedShow, ShowStore, StaleShow
from tests.conftest import Visitor
from tests.core.edits.test_edits import some_edit
from tests.faults.conftest import Client, Served
from tests.rigs import rig, rigs

BASE = rig(("A", 5, 1, 1), ("B", 5, 1, 11), ("C", 5, 1, 21), ("D", 5, 2, 1))


def holds(held: Fixture | None, change: Change[Fixture]) -> bool:
    """Whether a fixture has all that a change did to it; a mark and a move of one fixture join
    field by field."""
    if held is None or change.after is None or change.before is None:
        return held == change.after
    before, after, now = (
        dataclasses.asdict(record) for record in (change.before, change.after, held)
    )
    return all(now[name] == after[name] for name in after if before[name] != after[name])


@given(st.data(), rigs(most=6))
def test_edits_that_do_not_meet_join(data: st.DataObject, base: Show) -> None:
    """Joined edits hold all that each changed, whoever comes first, and no stop that neither had
    seen."""
    mine, theirs = some_edit(data.draw, base), some_edit(data.draw, base)
    try:
        joined = merge(base, mine, theirs)
    except FenceError:
        return
    if joined.collisions:
        return
    known = {
        f.key
        for show in (mine, theirs)
        for f in analyse(show).findings
        if f.severity is not Severity.NOTE
    }
    # then ids of mine are others in the join
    fresh = theirs.next_id > base.next_id and mine.next_id > base.next_id
    for finding in analyse(joined.show).findings:
        if finding.severity is Severity.STOP and len(finding.fixtures) <= 2 and not fresh:
            assert finding.key in known
    for change in difference(base, mine).fixtures:
        if change.before is not None:
            assert holds(joined.show.fixture_by_id.get(change.before.id), change)
    for change in difference(base, theirs).fixtures:
        if change.after is not None:
            assert holds(joined.show.fixture_by_id.get(change.after.id), change)
    labels = [f.label for f in mine.fixtures if f.id >= base.next_id]
    assert [f.label for f in joined.show.fixtures if f.id >= theirs.next_id] == labels
    assert len({f.id for f in joined.show.fixtures}) == len(joined.show.fixtures)
    assert all(f.id < joined.show.next_id for f in joined.show.fixtures)


@given(st.data(), rigs(most=6))
def test_an_edit_over_nothing_is_itself(data: st.DataObject, base: Show) -> None:
    """Where nobody else saved, or all saved the same, joining changes nothing."""
    mine = some_edit(data.draw, base)
    assert (
        merge(base, mine, base)
        == merge(base, base, mine)
        == merge(base, mine, base, mine_wins=True)
    )
    assert merge(base, mine, base).show == mine


def to(fixture: int, universe: int, slot: int) -> Callable[[Show], Show]:
    return lambda show: edits.place(show, fixture, Address(universe, slot))


Edit = Callable[[Show], Show]
MEETINGS: list[tuple[str, Edit, Edit, str]] = [
    (
        "same fixture",
        to(1, 2, 50),
        lambda s: edits.rename(s, 1, "X"),
        "A was changed meanwhile",
    ),
    ("the same twice", to(1, 2, 50), to(1, 2, 50), "A was changed meanwhile"),
    ("one slot", to(1, 2, 50), to(2, 2, 52), "Together they clash"),
    ("a pin", to(1, 2, 50), lambda s: edits.pin(s, [1]), "A was changed meanwhile"),
    ("removed", to(1, 2, 50), lambda s: edits.remove_fixtures(s, [1]), "A was removed meanwhile"),
    (
        "removing",
        lambda s: edits.remove_fixtures(s, [1]),
        to(1, 2, 50),
        "changed meanwhile, and this step removes it",
    ),
    ("reserved", to(1, 2, 50), lambda s: edits.reserve(s, 2, [52]), "Together they clash"),
    (
        "desk",
        lambda s: edits.set_desk(s, Desk("P")),
        lambda s: edits.set_desk(s, Desk("Q")),
        "The desk was changed",
    ),
    ("beyond", to(1, 2, 50), lambda s: edits.set_desk(s, Desk(universes=1)), "U2, with 2 fixtures"),
    (
        "number",
        lambda s: edits.set_number(s, 1, 77),
        lambda s: edits.set_number(s, 2, 77),
        "Number 77 is used by",
    ),
    (
        "groups",
        lambda s: edits.share(s, [1, 2], "G"),
        lambda s: edits.share(s, [3, 4], "G"),
        "group called G",
    ),
    (
        "universe",
        lambda s: edits.add_universe(s, 9, "X"),
        lambda s: edits.add_universe(s, 9, "Y"),
        "added twice",
    ),
    (
        "name",
        lambda s: edits.rename_show(s, "M"),
        lambda s: edits.rename_show(s, "N"),
        "show's name was changed",
    ),
]


@pytest.mark.parametrize(
    ("mine", "theirs", "words"), [m[1:] for m in MEETINGS], ids=[m[0] for m in MEETINGS]
)
def test_what_meets_is_told(store: ShowStore, mine: Edit, theirs: Edit, words: str) -> None:
    """Where two edits touch one thing, or clash together, the second person is asked and nothing is
    written."""
    start = store.create(BASE, who="A")
    first = store.save(start, theirs(BASE), who="A")
    with pytest.raises(StaleShow) as told:
        store.save(start, mine(BASE), who="B")
    assert re.search(words, " ".join(told.value.reasons))
    assert store.get(start.id) == first


def test_on_top_takes_only_what_this_person_changed(visitor: Visitor, shows: ShowStore) -> None:
    """One planner moves a fixture, another renames it from an older page: after "on top" it has
    both."""
    page = visitor.get("/shows/3/rig/27").text
    form = dict(
        re.findall(r'name="(label|number|position|address|revision)"[^>]*value="([^"]*)"', page)
    )
    form |= {"mode": shows.get(3).show.fixture(27).mode, "note": ""}
    assert (
        visitor.post(
            "/shows/3/rig/27", {**form, "address": "5/100", "position": "Rill"}
        ).status_code
        == 302
    )
    told = visitor.post("/shows/3/rig/27", {**form, "label": "Renamed"})
    assert told.status_code == 409
    fields = {
        name: unescape(v)
        for name, v in re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', told.text)
    }
    assert (fields["label"], fields["revision"]) == ("Renamed", form["revision"])
    visitor.post(
        "/shows/3/address/nudge", {"revision": shows.get(3).revision, "fixture": 27, "by": 3}
    )
    # more was changed since the person looked
    assert visitor.post("/shows/3/rig/27", fields).status_code == 409
    again = visitor.post("/shows/3/rig/27", {**fields, "on_top": shows.get(3).revision})
    assert again.status_code == 302
    fixture = shows.get(3).show.fixture(27)
    assert (fixture.label, str(fixture.patch[0]), fixture.position) == ("Renamed", "U5 103", "Rill")


@pytest.mark.parametrize("revision", [None, "", "x", "²", "-1", "0", "999", "1e3"])
def test_a_step_without_a_readable_revision_is_refused(
    visitor: Visitor, shows: ShowStore, revision: str | None
) -> None:
    """A form that does not say where it began changes nothing, wherever it is sent."""
    before = shows.get(2)
    state = {} if revision is None else {"revision": revision}
    for path, fields in (
        ("address/nudge", {"fixture": 1, "by": 1}),
        ("address/block/pin", {"pick": 1}),
        ("rig/1", {"label": "X", "mode": before.show.fixture(1).mode}),
        ("rig/bulk", {"action": "remove", "picked": 1}),
        ("settings", {"name": "X"}),
        ("modes/needs", {"whom": "show|", "features": "red"}),
        ("address/universes/3/remove", {}),
        ("undo", {}),
    ):
        assert visitor.post(f"/shows/2/{path}", {**fields, **state}).status_code in (409, 422), path
    assert shows.get(2) == before


def test_a_step_that_joins_others_says_so_on_every_way(visitor: Visitor, shows: ShowStore) -> None:
    """On the rig's pages as on the fence: the next page tells that others saved meanwhile, and both
    steps are there."""
    old = shows.get(2).revision
    visitor.post("/shows/2/address/nudge", {"revision": old, "fixture": 1, "by": 1})
    ways: list[tuple[str, dict[str, object]]] = [
        ("rig/bulk", {"action": "pin", "picked": 22}),
        ("address/universes/4", {"number": 4, "name": "Renamed", "reserved": ""}),
        ("address/block/pin", {"pick": 21}),
    ]
    for path, fields in ways:
        told = visitor.post(f"/shows/2/{path}", {**fields, "revision": old})
        assert told.status_code == 302, path
        assert (
            "Saved, together with what others have saved meanwhile"
            in visitor.get(told.headers["Location"]).text
        )
    show = shows.get(2).show
    assert (show.fixture(22).pinned, show.fixture(21).pinned) == (True, True)
    assert show.universe_by_number[4].name == "Renamed"


def test_a_wide_show_of_steps_ago(store: ShowStore) -> None:
    """A form may have begun many steps ago: its edit is put on top of all that came since."""
    start = store.create(demo_show(), who="A")
    saved = start
    for _ in range(40):
        saved = store.save(saved, edits.nudge(saved.show, 1, 1), who="A")
        saved = store.save(saved, edits.nudge(saved.show, 1, -1), who="A")
    fresh = ShowStore(store.engine)
    assert fresh.at_revision(start.id, 1).show == start.show
    joined = fresh.save(
        fresh.at_revision(start.id, 1), edits.rename(start.show, 2, "Late"), who="B"
    )
    assert joined.show == replace(saved.show, fixtures=edits.rename(saved.show, 2, "Late").fixtures)


WRITERS, STEPS = 8, 12


@pytest.fixture
def together(database: Path) -> int:
    """A show with a fixture for each writer, in a universe of its own; gives its id."""
    store = ShowStore(open_engine(database))
    show = rig(*((f"F{n}", 5, n, 100) for n in range(1, WRITERS + 1)))
    saved = store.create(replace(show, name="Together"), who="A")
    store.engine.dispose()
    return saved.id


def steps_of(client: Client, show: int, fixture: int, universe: int) -> list[int]:
    """Nudge a fixture by one, again and again, each time from the page as it was seen before."""
    statuses = []
    for _ in range(STEPS):
        seen = re.search(
            r'name="revision" value="(\d+)"', client.get(f"/shows/{show}/address?u={universe}")[1]
        )
        assert seen
        fields = {"fixture": fixture, "by": 1, "u": universe, "revision": seen[1]}
        statuses.append(client.post(f"/shows/{show}/address/nudge", **fields)[0])
    return statuses


def after(served: Served, database: Path, show: int) -> tuple[SavedShow, list[str]]:
    """The show and its log as they are on disk once the server has ended."""
    assert served.stop() == 0
    store = ShowStore(open_engine(database))
    found = store.get(show), [e.words for e in store.history(show, most=10_000) if e.kind == "edit"]
    store.engine.dispose()
    return found


def test_eight_writers_on_different_fixtures_never_collide(
    database: Path, together: int, serve: Callable[..., Served]
) -> None:
    """Eight browsers at once, each on its own fixture: nobody is asked, and every answered step is
    saved and logged."""
    served = serve(database)
    answers: dict[int, list[int]] = {}

    def write(who: int) -> None:
        answers[who] = steps_of(served.client(), together, who, who)

    run_all([lambda who=who: write(who) for who in range(1, WRITERS + 1)])  # type: ignore[misc]
    saved, log = after(served, database, together)
    assert answers == {who: [302] * STEPS for who in range(1, WRITERS + 1)}
    assert [fixture.start for fixture in saved.show.fixtures] == [100 + STEPS] * WRITERS
    assert (len(log), saved.revision) == (WRITERS * STEPS, WRITERS * STEPS + 1)


def test_writers_on_one_fixture_are_told(
    database: Path, together: int, serve: Callable[..., Served]
) -> None:
    """Four browsers on the same fixture: each step is either saved or told as a collision, and none
    is lost."""
    served = serve(database)
    answers: list[int] = []
    jobs = [lambda: answers.extend(steps_of(served.client(), together, 1, 1))] * 4
    run_all(jobs)
    saved, log = after(served, database, together)
    assert set(answers) <= {302, 409}
    done = answers.count(302)
    assert len(answers) == 4 * STEPS
    assert (saved.show.fixture(1).start, len(log)) == (100 + done, done)


def run_all(jobs: list[Callable[[], None]]) -> None:
    """Run jobs at once; the first failure is raised here."""
    failures: list[BaseException] = []

    def guarded(job: Callable[[], None]) -> None:
        try:
            job()
        except BaseException as error:
            failures.append(error)

    threads = [threading.Thread(target=guarded, args=(job,)) for job in jobs]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(timeout=120)
    assert not failures, failures[0]
