"""A verdict is always this show's: nothing that is kept is ever taken for something else."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from sqlalchemy import text

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.demo import clean_show, demo_show
from fence.store import summary
from fence.store.backups import backup, restore
from fence.store.database import open_engine
from fence.store.people import People, Role
from fence.store.shows import NoSuchShow, ShowStore, StaleShow
from tests.conftest import Visitor
from tests.rigs import rig

CLEAN = rig(("A", 5, 1, 1), ("B", 5, 1, 10))
CLASHING = rig(("A", 5, 1, 1), ("B", 5, 1, 3))


def test_the_verdict_of_a_removed_show_is_not_another_ones(
    visitor: Visitor, tmp_path: Path
) -> None:
    """A clean rig imported, deleted and removed for good, then a clashing one: the second one's
    stop is seen."""
    store: ShowStore = visitor.client.application.extensions["fence_pages"].store
    first = store.create(CLEAN, who="A")
    assert "no stops" in visitor.get(f"/shows/{first.id}/rig").text
    visitor.post(f"/shows/{first.id}/delete", {})
    visitor.post(f"/shows/{first.id}/remove", {})
    second = store.create(CLASHING, who="A")
    assert (second.id, second.key) != (first.id, first.key)
    assert second.id > first.id
    assert "1 stop" in visitor.get(f"/shows/{second.id}/rig").text
    with pytest.raises(NoSuchShow):
        store.get(first.id)


def test_fixture_ids_never_come_back(store: ShowStore) -> None:
    """The id of a fixture whose adding was undone is not given to the next one."""
    profile = clean_show().profiles[0]
    run = edits.AddRun(profile, profile.modes[0].name, 1, "New")
    saved = store.create(clean_show(), who="A")
    added = store.save(saved, edits.add_fixtures(saved.show, run), who="A")
    undone = store.undo(saved.id, revision=added.revision, who="A")
    again = store.save(undone, edits.add_fixtures(undone.show, run), who="A")
    assert again.show.fixtures[-1].id == added.show.fixtures[-1].id + 1
    assert ShowStore(store.engine).get(saved.id) == again


def test_a_kept_verdict_belongs_to_its_revision_and_its_rules(
    store: ShowStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The list reads what was kept; of another revision, of other rules, or unreadable, it is
    computed anew."""
    saved = store.create(CLASHING, who="A")

    def listed() -> tuple[int, int]:
        told = ShowStore(store.engine).list_shows()[0].summary
        assert told is not None
        return told.stops, told.fixtures

    def keep(**values: object) -> None:
        with store.engine.begin() as connection:
            kept = json.loads(
                connection.execute(text("SELECT summary FROM shows")).scalar() or "{}"
            )
            words = json.dumps({**kept, **values}) if values else "no document"
            connection.execute(text("UPDATE shows SET summary = :s"), {"s": words})

    assert listed() == (1, 2)
    keep(stops=7)
    assert listed() == (7, 2)
    keep(stops=7, revision=99)
    assert listed() == (1, 2)
    keep(stops=7)
    monkeypatch.setattr(summary, "rules_key", lambda: "other rules")
    assert listed() == (1, 2)
    keep()
    assert listed() == (1, 2)
    mended = store.save(saved, edits.place(saved.show, 2, Address(1, 10)), who="A")
    assert (mended.analysis.verdict.stops, listed()) == (0, (0, 2))


def test_a_restored_database_goes_on_above(store: ShowStore, tmp_path: Path) -> None:
    """After a restore neither revisions nor ids come again, so a page that was open all the while
    is told."""
    path, copy = tmp_path / "fence.db", tmp_path / "copy.db"
    saved = store.create(demo_show(), who="A")
    backup(path, copy)
    for _ in range(3):
        seen = store.save(store.get(saved.id), edits.nudge(store.get(saved.id).show, 1, 1), who="A")
    later = store.create(CLEAN, who="A")
    store.engine.dispose()
    restore(copy, path)
    again = ShowStore(open_engine(path))
    back = again.get(saved.id)
    assert (back.show, back.key) == (saved.show, saved.key)
    assert back.revision > seen.revision
    with pytest.raises(StaleShow):
        again.at_revision(saved.id, seen.revision)
    assert again.create(CLEAN, who="A").id > later.id
    again.engine.dispose()


def test_a_restore_lets_nobody_back_in(store: ShowStore, tmp_path: Path) -> None:
    """Who was taken out since the backup stays out, who came since stays in; on a fresh machine all
    log in anew."""
    path, copy = tmp_path / "fence.db", tmp_path / "copy.db"
    people = People(store.engine, store.clock)
    store.create(demo_show(), who="A")
    names = {}
    for name in ("Owner", "Gone", "Come"):
        if name == "Come":
            backup(path, copy)
            people.remove(names["Gone"][0].id)
        found = people.join(people.invite(Role.OWNER, hours=1, by=""), name, "a quiet long night")
        names[name] = (found, people.begin(found.id, "a browser"))
    store.engine.dispose()
    for target, inside, seated in (
        (path, ["Come", "Owner"], ["Come", "Owner"]),
        (tmp_path / "new.db", ["Gone", "Owner"], []),
    ):
        restore(copy, target)
        engine = open_engine(target)
        again = People(engine, store.clock)
        assert [one.name for one in again.all()] == inside
        assert [name for name, (_, token) in sorted(names.items()) if again.at(token)] == seated
        assert again.invitations() == []
        engine.dispose()


def test_putting_back_under_a_taken_name_can_be_undone_past(store: ShowStore) -> None:
    """A show that comes back under another name says so on its log, and steps from before can still
    be undone."""
    saved = store.create(
        Show("Yule", fixtures=CLEAN.fixtures, profiles=CLEAN.profiles, next_id=3), who="A"
    )
    moved = store.save(saved, edits.nudge(saved.show, 1, 20), who="A")
    renamed = store.save(moved, edits.rename_show(moved.show, "Winter"), who="A")
    store.delete(saved.id)
    store.create(Show("Winter"), who="A")
    back = store.put_back(saved.id, who="B")
    assert (back.show.name, store.history(saved.id)[0].words) == (
        "Winter 2",
        "Show put back as Winter 2",
    )
    assert ShowStore(store.engine).get(saved.id) == back
    assert store.at_revision(saved.id, renamed.revision).show == renamed.show
    assert store.at_revision(saved.id, 1).show == saved.show
    once = store.undo(saved.id, revision=back.revision, who="B")
    assert store.undo(saved.id, revision=once.revision, who="B").show == saved.show
