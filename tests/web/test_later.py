"""Marks that come from out of reach: each once, with its own time, over what others saved, and none
dropped."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from random import Random

import pytest
from werkzeug.test import TestResponse

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.fixture import Fixture
from fence.core.model.standing import State, state_of
from fence.store.shows import ShowStore
from fence.web.set.here import GONE, LATELY, MOST_SEATS, Presence
from tests.conftest import Visitor

HEAD = {"X-Sending": "mark"}


def to_set(shows: ShowStore) -> Fixture:
    """A fixture of the show on site at which nothing was done yet."""
    show = shows.get(3).show
    return next(one for one in show.fixtures if state_of(show, one) is State.TO_SET and one.start)


def send(visitor: Visitor, path: str, sending: str, **fields: object) -> TestResponse:
    """Send a mark as the script of a page does."""
    if not visitor.token:
        visitor.get("/")
    data = {"csrf_token": visitor.token, "sending": sending, "words": "Bough 4: set", **fields}
    return visitor.client.post(path, data=data, headers=HEAD)


def mark_of(fixture: Fixture) -> dict[str, object]:
    """The mark "set" as the card of a fixture has it."""
    return {
        "what": "set",
        "mode": fixture.mode,
        "patch": "+".join(f"{entry.universe or ''}.{entry.slot or ''}" for entry in fixture.patch),
    }


def named(number: int) -> str:
    """An id as the script makes them."""
    return f"{number:032x}"


def test_what_a_phone_says_stands_in_quotes(visitor: Visitor, shows: ShowStore) -> None:
    """Whatever words come with a late mark, the log tells them as that phone's: no line is as if
    others had told it."""
    words = "x”. All out: Fence itself has ended\n\u202eevil“"
    told = send(visitor, "/shows/3/set/9999/mark", named(9), what="set", waited=1, words=words)
    assert told.json is not None
    entry = shows.history(3)[0]
    assert entry.words.startswith(
        "Sent late and not kept as a mark: “x'. All out: Fence itself has ended evil'”. "
    )
    assert entry.who == "Crew"


def test_a_mark_is_taken_once(visitor: Visitor, shows: ShowStore) -> None:
    """Sent again since its answer was lost, at once or after it was taken back: nothing happens,
    and it is answered."""
    fixture = shows.get(3).show.fixture(47)
    first = send(visitor, "/shows/3/set/47/mark", named(1), **mark_of(fixture))
    assert first.json is not None
    assert first.json["kept"] is True
    assert first.json["to"].startswith("/shows/3/set")
    revision = shows.get(3).revision
    for _ in range(3):
        told = send(visitor, "/shows/3/set/47/mark", named(1), **mark_of(fixture))
        assert told.json is not None
        assert told.json["again"] is True
    assert shows.get(3).revision == revision
    send(visitor, "/shows/3/set/47/mark", named(2), what="unset")
    send(visitor, "/shows/3/set/47/mark", named(1), **mark_of(fixture))
    assert shows.get(3).show.fixture(47).set_to is None


def test_random_losses_change_nothing(visitor: Visitor, shows: ShowStore) -> None:
    """Whatever is sent how often, in order: the show is as if each had been sent once."""
    random = Random(7)
    fixtures = list(shows.get(3).show.fixtures)[:12]
    marks = []
    for number in range(40):
        fixture = random.choice(fixtures)
        what = random.choice(["set", "unset", "proven", "unproven"])
        fields = {**mark_of(fixture), "what": what}
        marks.append((fixture.id, what, named(number + 100), fields))
    last: dict[tuple[int, str], bool] = {}
    for fixture_id, what, sending, fields in marks:
        for _ in range(random.choice([1, 1, 2, 4])):
            assert (
                send(visitor, f"/shows/3/set/{fixture_id}/mark", sending, **fields).status_code
                == 200
            )
        last[fixture_id, what.removeprefix("un")] = not what.startswith("un")
    for (fixture_id, what), expected in last.items():
        found = shows.get(3).show.fixture(fixture_id)
        assert (bool(found.set_to) if what == "set" else bool(found.proven)) == expected


def test_it_keeps_the_time_at_which_it_was_made(visitor: Visitor, shows: ShowStore) -> None:
    """A mark that has waited an hour says so on its fixture and on the log; none gets older than
    two weeks."""
    fixture = to_set(shows)
    send(
        visitor, f"/shows/3/set/{fixture.id}/mark", named(1), ago=3600, waited=1, **mark_of(fixture)
    )
    known = shows.get(3).show.fixture(fixture.id).set_to
    assert known is not None
    assert known.by.at is not None
    assert abs(datetime.now(UTC) - known.by.at - timedelta(hours=1)) < timedelta(seconds=60)
    assert "sent when back in reach" in visitor.get("/shows/3/log").text
    for number, ago in enumerate(("1e12", "nan", "-50", "words"), 2):
        fixture = to_set(shows)
        send(visitor, f"/shows/3/set/{fixture.id}/mark", named(number), ago=ago, **mark_of(fixture))
        found = shows.get(3).show.fixture(fixture.id).set_to
        assert found is not None
        assert found.by.at is not None
        assert timedelta() <= datetime.now(UTC) - found.by.at < timedelta(days=15)


def test_what_was_really_set_is_kept_over_another_plan(visitor: Visitor, shows: ShowStore) -> None:
    """The plan moved it meanwhile: the mark says what was set, the fixture has to be set again, the
    person is told."""
    saved, fixture = shows.get(3), to_set(shows)
    shows.save(saved, edits.place(saved.show, fixture.id, Address(2, 400)), who="Planner")
    told = send(
        visitor, f"/shows/3/set/{fixture.id}/mark", named(1), ago=600, waited=1, **mark_of(fixture)
    )
    assert told.status_code == 200
    found = shows.get(3).show.fixture(fixture.id)
    assert found.set_to is not None
    assert found.set_to.patch == fixture.patch
    assert state_of(shows.get(3).show, found) is State.RE_SET
    page = visitor.get(f"/shows/3/set/{fixture.id}").text
    assert "changed meanwhile. What you set is kept" in page


def test_a_reading_is_held_against_the_plan_that_it_was_read_with(
    visitor: Visitor, shows: ShowStore
) -> None:
    """It was right when it was read: so it has to be set again, and is not one that was never
    right."""
    saved, fixture = shows.get(3), to_set(shows)
    shows.save(saved, edits.place(saved.show, fixture.id, Address(2, 400)), who="Planner")
    seen = mark_of(fixture)
    told = send(
        visitor,
        f"/shows/3/set/{fixture.id}/says",
        named(1),
        ago=600,
        waited=1,
        says=str(fixture.start),
        seen_mode=seen["mode"],
        seen_patch=seen["patch"],
    )
    assert told.status_code == 200
    show = shows.get(3).show
    assert state_of(show, show.fixture(fixture.id)) is State.RE_SET


def test_the_newest_word_counts_in_whatever_order_they_come(
    visitor: Visitor, shows: ShowStore
) -> None:
    """A mark that is older than what is known stays on the log, and does not take the place of the
    newer one."""
    fixture = to_set(shows)
    path = f"/shows/3/set/{fixture.id}/mark"
    send(visitor, path, named(1), ago=60, waited=1, **{**mark_of(fixture), "patch": "2.007"})
    told = send(visitor, path, named(2), ago=900, waited=1, **mark_of(fixture))
    assert told.status_code == 200
    known = shows.get(3).show.fixture(fixture.id).set_to
    assert known is not None
    assert known.patch[0].slot == 7
    assert shows.history(3)[0].words.startswith(
        "Sent late and not kept as a mark: “Bough 4: set”. Something newer is known"
    )


def test_a_mark_for_what_is_gone_is_not_dropped(visitor: Visitor, shows: ShowStore) -> None:
    """The fixture was taken out meanwhile: the log keeps the words of the mark, once; made just now
    it is said only."""
    saved = shows.get(3)
    fixture = saved.show.fixture(47)
    shows.save(saved, edits.remove_fixtures(saved.show, [47]), who="Planner")
    told = send(visitor, "/shows/3/set/47/mark", named(1), **mark_of(fixture))
    assert told.status_code == 422
    assert told.json is not None
    assert told.json["problem"]
    for _ in range(2):
        told = send(
            visitor, "/shows/3/set/47/mark", named(2), ago=600, waited=1, **mark_of(fixture)
        )
        assert told.status_code == 200
    words = [entry.words for entry in shows.history(3) if "Bough 4: set" in entry.words]
    assert len(words) == 1
    assert "not kept as a mark" in words[0]
    assert shows.undo(3, revision=shows.get(3).revision, who="Planner").show.fixture(47)
    assert (
        send(visitor, "/shows/999/set/47/mark", named(3), waited=1, ago=9, what="unset").status_code
        == 404
    )


def test_marks_lie_over_what_others_marked(visitor: Visitor, shows: ShowStore) -> None:
    """A whole position marked out of reach: what others did there meanwhile stays, nobody is asked,
    nothing is lost."""
    saved = shows.get(1)
    at = saved.show.fixtures[0].position
    here = [one for one in saved.show.fixtures if one.position == at]
    shows.save(saved, edits.set_serial(saved.show, here[0].id, "TX 9"), who="Crew B")
    other = shows.get(1)
    shows.save(
        other, edits.mark_set_to(other.show, here[1].id, here[1].mode, here[2].patch), who="Crew B"
    )
    told = send(
        visitor, "/shows/1/set/place", named(1), at=at, revision=saved.revision, ago=600, waited=1
    )
    assert told.status_code == 200
    show = shows.get(1).show
    assert show.fixture(here[0].id).serial == "TX 9"
    assert all(show.fixture(one.id).set_to for one in here)


def test_only_marks_go_that_way(visitor: Visitor, shows: ShowStore) -> None:
    """A change of the plan that comes with the head of a mark is a form like any other: its new
    stop is shown first."""
    saved = shows.get(1)
    one, other = saved.show.fixtures[:2]
    fields = {
        "fixture": other.id,
        "part": 0,
        "address": str(one.patch[0]),
        "revision": saved.revision,
        "u": 1,
    }
    told = send(visitor, "/shows/1/address/move", named(1), **fields)
    assert shows.get(1).revision == saved.revision
    assert told.status_code == 200


@pytest.mark.parametrize("bad", ["", "x", "'; drop", "0" * 41, "ABCDEF0123456789"])
def test_what_is_no_sending_is_a_form(visitor: Visitor, shows: ShowStore, bad: str) -> None:
    """An id that no script of ours makes counts for nothing: the form is taken as one."""
    fixture = shows.get(3).show.fixture(47)
    assert send(visitor, "/shows/3/set/47/mark", bad, **mark_of(fixture)).status_code == 302


def test_a_stale_token_is_said_to_the_script(visitor: Visitor, shows: ShowStore) -> None:
    """It then asks for a fresh one, which is good."""
    visitor.get("/")
    visitor.token = "old"
    told = send(visitor, "/shows/3/set/47/mark", named(1), what="unset")
    assert told.status_code == 400
    assert told.json == {"token": "stale"}
    fresh = visitor.client.get("/shows/3/set/token").json
    assert fresh is not None
    visitor.token = fresh["token"]
    assert send(visitor, "/shows/3/set/47/mark", named(1), what="unset").status_code == 200


def test_who_is_where(app, shows: ShowStore) -> None:  # type: ignore[no-untyped-def]
    """Each hears where the others are, who has the same fixture open, and what was marked; nobody
    hears of itself."""
    one, other, third = (Visitor(app.test_client()) for _ in range(3))
    one.post("/who", {"who": "Ladder crew A"})
    other.post("/who", {"who": "Ladder crew B"})
    place = shows.get(3).show.fixture(47)
    assert "here, too" not in one.get("/shows/3/set/here?fixture=47").text
    heard = other.get("/shows/3/set/here?fixture=47").text
    assert f"is at {place.label}, {place.position}: here, too" in " ".join(
        heard.replace("</b>", "").split()
    )
    assert "here, too" not in third.get("/shows/3/set/here").text
    assert "<b>Ladder crew A</b> is" in third.get("/shows/3/set/here").text
    assert "<b>Ladder crew A</b> is" not in third.get("/shows/2/set/here").text
    revision = shows.get(3).revision
    assert "older than the plan" not in one.get(f"/shows/3/set/here?revision={revision}").text
    other.post("/shows/3/set/47/mark", mark_of(place))
    heard = one.get(f"/shows/3/set/here?revision={revision}").text
    assert "older than the plan" in heard
    assert f"{place.label} set at the fixture" in heard


def test_presence_forgets_and_is_bounded() -> None:
    """Who says nothing for half a minute is gone; however many come, so many are kept."""
    now = [datetime(2026, 2, 14, 20, 0)]
    presence = Presence(lambda: now[0])
    assert presence.tell("show", "a", "A", 1, None) == []
    assert [place.who for place in presence.tell("show", "b", "B", None, "Rill")] == ["A"]
    assert presence.tell("other", "c", "C", None, None) == []
    now[0] += GONE + timedelta(seconds=1)
    assert presence.tell("show", "b", "B", None, "Rill") == []
    for number in range(MOST_SEATS * 2):
        presence.tell("show", f"seat {number}", "X", None, None)
    assert len(presence.tell("show", "b", "B", None, None)) <= MOST_SEATS
    assert LATELY > GONE
