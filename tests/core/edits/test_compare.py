"""Two snapshots beside each other, held against a naive comparison of the two exported files; going
back."""

from __future__ import annotations

import json
from contextlib import suppress
from datetime import UTC, datetime
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.edits.compare import Kind, compare, gone_back
from fence.core.model.address import Address
from fence.core.model.errors import FenceError
from fence.core.model.record import Witness
from fence.core.model.show import Show
from fence.core.setting.walk import walk
from fence.demo import clean_show
from fence.formats.show_json import write_show_json
from tests.examples import examples
from tests.rigs import rich_rigs

BY = Witness("Crew", datetime(2026, 11, 28, 12, tzinfo=UTC))


def fixtures_in(show: Show) -> dict[int, dict[str, Any]]:
    """The fixtures of an exported file, by id."""
    return {
        fixture["id"]: fixture for fixture in json.loads(write_show_json(show))["show"]["fixtures"]
    }


def changed_at_random(data: st.DataObject, show: Show) -> Show:
    """A few edits of any kind; one that is refused changes nothing."""
    for _ in range(data.draw(st.integers(0, 6))):
        if not show.fixtures:
            return show
        one = data.draw(st.sampled_from(show.fixtures))
        step = data.draw(
            st.sampled_from(["move", "unplace", "remove", "rename", "hang", "pin", "set", "copy"])
        )
        with suppress(FenceError):
            if step == "move":
                to = Address(data.draw(st.integers(1, 4)), data.draw(st.integers(1, 500)))
                show = edits.place(show, one.id, to)
            elif step == "unplace":
                show = edits.unplace(show, [one.id])
            elif step == "remove":
                show = edits.remove_fixtures(show, [one.id])
            elif step == "rename":
                show = edits.rename(show, one.id, f"{one.label} x")
            elif step == "hang":
                show = edits.set_number(show, one.id, data.draw(st.integers(100, 999)))
            elif step == "pin":
                show = edits.pin(show, [one.id])
            elif step == "set":
                show = edits.mark_set(show, [one.id], BY)
            else:
                profile = show.profile_by_id[one.profile]
                show = edits.add_fixtures(
                    show, edits.AddRun(profile, one.mode, 1, "N 1", None, "", 1, None)
                )
    return show


@examples(100)
@given(st.data())
def test_a_comparison_is_that_of_the_two_files(data: st.DataObject) -> None:
    """Which were added, removed, moved, given another mode; to be set again are those that the walk
    begins with."""
    before = data.draw(rich_rigs())
    after = changed_at_random(data, changed_at_random(data, before))
    old, new = fixtures_in(before), fixtures_in(after)
    found = {
        (one.after or one.before).id: one
        for one in compare(before, after).fixtures
        if one.after or one.before
    }
    assert set(found) == {key for key in old.keys() | new.keys() if old.get(key) != new.get(key)}
    for key, one in found.items():
        was, now = old.get(key), new.get(key)
        assert (Kind.ADDED in one.kinds) == (was is None)
        assert (Kind.REMOVED in one.kinds) == (now is None)
        if was is None or now is None:
            continue
        assert (Kind.MOVED in one.kinds) == (was["patch"] != now["patch"])
        assert (Kind.MODE in one.kinds) == (
            (was["profile"], was["mode"]) != (now["profile"], now["mode"])
        )
        assert one.words
    to_go_back_to = {stop.fixture.id for stop in walk(after).first}
    assert {key for key, one in found.items() if one.again} == to_go_back_to & set(found)
    for key, now in new.items():
        if (
            now["read_back"] is None
            and now["proven"] is None
            and now["set_to"] is not None
            and key in to_go_back_to
        ):
            assert (now["set_to"]["mode"], now["set_to"]["patch"]) != (now["mode"], now["patch"])


def test_what_was_set_and_moved_since_has_to_be_set_again() -> None:
    """It was not set at the first snapshot, then it was, then it was moved: the walk and the
    comparison both say so."""
    before = clean_show()
    one = before.fixtures[0]
    moved = edits.place(edits.mark_set(before, [one.id], BY), one.id, Address(4, 400))
    (found,) = compare(before, moved).fixtures
    assert found.again
    assert found.words == f"from {one.patch[0]} to U4 400, set"


@examples(60)
@given(st.data())
def test_going_back_brings_the_plan_and_keeps_what_was_done(data: st.DataObject) -> None:
    """The plan is the earlier one to the last field, facts are those of now, and no id is given
    twice."""
    before = data.draw(rich_rigs())
    now = changed_at_random(data, before)
    back = gone_back(now, before)
    facts = ("set_to", "read_back", "proven", "ticked", "serial")
    old, new, held = fixtures_in(before), fixtures_in(back), fixtures_in(now)
    assert list(old) == list(new)
    for key, fixture in new.items():
        source = held.get(key, old[key])
        assert {name: fixture[name] for name in facts} == {name: source[name] for name in facts}
        assert {n: v for n, v in fixture.items() if n not in facts} == {
            n: v for n, v in old[key].items() if n not in facts
        }
    assert back.next_id >= max(now.next_id, before.next_id)
