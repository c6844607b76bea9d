"""The library of charts: revisions, retiring, shipped charts beneath."""

from __future__ import annotations

from dataclasses import replace

from fence.library import shipped_profiles
from fence.store.library import Library
from fence.store.shows import ShowStore


def library(store: ShowStore) -> Library:
    return Library(store.engine, shipped_profiles(), store.clock)


def test_revisions_count_up_and_stay_readable(store: ShowStore) -> None:
    """A changed chart is the next revision; the one before can still be read; the same again saves
    nothing."""
    shelf = library(store)
    shipped = shipped_profiles()[0]
    changed = shelf.save(replace(shipped, listens="When asked."), who="A")
    assert changed.revision == 2
    assert shelf.save(replace(changed, revision=99), who="A").revision == 2
    assert [p.revision for p in library(store).revisions(shipped.id)] == [2, 1]
    assert library(store).newest(shipped.id) == changed
    assert len(shelf.charts()) == len(shipped_profiles())


def test_a_new_chart_is_offered_to_all(store: ShowStore) -> None:
    """A chart of one's own stands among the shipped ones, as revision 1."""
    shelf = library(store)
    own = shelf.save(replace(shipped_profiles()[0], id="own", maker="Aaa", revision=7), who="A")
    assert own.revision == 1
    assert library(store).profiles()[0] == own
    assert library(store).newest("none") is None


def test_retired_charts_are_offered_no_more_and_come_back(store: ShowStore) -> None:
    """Retiring takes a chart from the shelf, shipped or not, and bringing back puts it there
    again."""
    shelf = library(store)
    shipped = shipped_profiles()[3]
    shelf.retire(shipped.id, who="A")
    assert shipped.id not in {p.id for p in shelf.profiles()}
    assert [chart.profile for chart in shelf.charts(retired=True)] == [shipped]
    assert shelf.newest(shipped.id) == shipped
    shelf.bring_back(shipped.id, who="A")
    assert shipped.id in {p.id for p in library(store).profiles()}
    assert shelf.save(replace(shipped, kind="other"), who="A").revision == 2
