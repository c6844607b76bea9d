"""Of marks for one fixture the newest word stands, whoever comes first; a clock that goes back
costs nothing."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from itertools import permutations
from pathlib import Path

import pytest

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.record import Seen, Witness
from fence.core.model.show import Show
from fence.core.model.standing import newest
from fence.store.keeping import DAY, MOST_KEPT, copies_of, keep
from fence.store.people import MOST_SITTINGS, People, Role
from fence.store.shows import SavedShow, ShowStore
from fence.work.marks import only_newer
from tests.rigs import rig

NOON = datetime(2026, 11, 29, 12, tzinfo=UTC)


def at(minute: int) -> Witness:
    return Witness("Crew", NOON + timedelta(minutes=minute))


def late(store: ShowStore, before: SavedShow, after: Show, sending: str) -> None:
    """Save a mark as one is saved that has waited at a phone."""
    with suppress(EditError):  # something newer is known
        store.save(before, after, who="Crew", sending=sending, settle=only_newer, over_all=True)


@pytest.mark.parametrize("turn", range(12))
def test_of_two_that_come_at_once_the_newer_stays(store: ShowStore, turn: int) -> None:
    """Sent in one moment from two phones, each from the show as both have seen it: the newer one by
    its own time."""
    saved = store.create(rig(("A", 4, 1, 1)), who="Planner")
    marks = [
        (1, edits.read_back(saved.show, 1, 40, by=at(1))),
        (2, edits.read_back(saved.show, 1, 50, by=at(2))),
    ]
    marks = marks if turn % 2 else marks[::-1]
    with ThreadPoolExecutor(2) as together:
        for minute, after in marks:
            together.submit(late, store, saved, after, f"{turn:08d}-{minute:08d}")
    read = store.get(saved.id).show.fixture(1).read_back
    assert read is not None
    assert (read.says, read.by.at) == ((50,), at(2).at)


@pytest.mark.parametrize("order", list(permutations(range(3))))
def test_signs_and_proofs_by_their_own_time(store: ShowStore, order: tuple[int, ...]) -> None:
    """Proven, seen dark, proven again: whatever comes first, what was seen last stands."""
    saved = store.create(rig(("A", 4, 1, 1)), who="Planner")
    steps = [
        edits.mark_proven(saved.show, [1], at(1)),
        edits.mark_proven(saved.show, [1], at(2)),
        edits.mark_sign(saved.show, 1, Seen.DARK, by=at(3)),
    ]
    for place in order:
        late(store, saved, steps[place], f"{place:016d}")
    held = store.get(saved.id).show.fixture(1)
    assert held.sign is not None
    assert held.sign.by.at == at(3).at
    late(store, saved, edits.mark_proven(saved.show, [1], at(4)), "f" * 16)
    held = store.get(saved.id).show.fixture(1)
    assert (held.sign, held.proven is not None) == (None, True)


def test_a_mark_made_now_is_the_newest_also_when_the_clock_went_back(store: ShowStore) -> None:
    """Set at noon; the clock goes back an hour; what is read then is newer all the same, and
    nothing is refused."""
    saved = store.create(rig(("A", 4, 1, 1)), who="Planner")
    saved = store.save(saved, edits.mark_set(saved.show, [1], at(0)), who="Crew")
    saved = store.save(saved, edits.read_back(saved.show, 1, 7, by=at(-60)), who="Crew")
    fixture = saved.show.fixture(1)
    assert newest(fixture) is fixture.read_back
    assert fixture.read_back is not None
    assert fixture.read_back.by.at == NOON + timedelta(microseconds=1)
    saved = store.save(saved, edits.mark_set(saved.show, [1], at(-59)), who="Crew")
    assert newest(saved.show.fixture(1)) is saved.show.fixture(1).set_to


def test_no_log_in_ends_since_the_clock_went_back(store: ShowStore) -> None:
    """Who logs in with the clock gone back stays in, beside those who were in before, and when it
    is right again."""
    now = [datetime(2026, 11, 29, 12)]
    people = People(store.engine, lambda: now[0])
    person = people.join(people.invite(Role.OWNER, hours=1, by=""), "Owner", "a quiet long night")
    before = [people.begin(person.id, "browser") for _ in range(MOST_SITTINGS - 1)]
    now[0] = datetime(2020, 1, 1)
    fresh = people.begin(person.id, "phone")
    assert all(people.at(token) for token in (*before, fresh))
    now[0] = datetime(2026, 11, 29, 13)
    assert all(people.at(token) for token in (*before, fresh))


def test_no_copy_goes_since_the_clock_went_back(store: ShowStore, tmp_path: Path) -> None:
    """Copies of before stay, and so does the new one: each kind by itself is kept to its number."""
    path = tmp_path / "fence.db"
    days = [datetime(2026, 11, day, 12) for day in range(1, MOST_KEPT + 3)]
    for day in days:
        keep(path, DAY, day)
    held = copies_of(path, DAY)
    assert len(held) == MOST_KEPT
    for day in range(1, 4):
        made = keep(path, DAY, datetime(2020, 1, day, 12))
        assert made.exists()
        assert set(held) <= set(copies_of(path, DAY))


def test_a_late_mark_that_says_less_is_for_the_log(store: ShowStore) -> None:
    """One that is older than all that is known is refused with the reason, so that it goes to the
    log alone."""
    saved = store.create(rig(("A", 4, 1, 1)), who="Planner")
    done = store.save(saved, edits.mark_set(saved.show, [1], at(5)), who="Crew")
    with pytest.raises(EditError, match="newer"):
        store.save(
            saved,
            edits.mark_set(saved.show, [1], at(1)),
            who="Crew",
            sending="a" * 16,
            settle=only_newer,
            over_all=True,
        )
    assert store.get(saved.id).show == done.show
