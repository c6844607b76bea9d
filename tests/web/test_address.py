"""The steps of the Address page, and what its side panel says."""

from __future__ import annotations

import json
from html import unescape
from re import findall, search

import pytest

from fence.core import edits
from fence.core.checks import analyse
from fence.core.model.address import Address
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.demo import demo_show
from fence.store.shows import SavedShow, ShowStore
from fence.web.address.asked import Asked
from fence.web.address.page import Board, make_board
from fence.web.address.proposed import ProposedEdit
from tests.conftest import Visitor
from tests.rigs import rig


def fixture(shows: ShowStore, label: str) -> Fixture:
    return next(f for f in shows.get(2).show.fixtures if f.label == label)


def step(shows: ShowStore, label: str = "", **values: object) -> dict[str, object]:
    form: dict[str, object] = {"revision": shows.get(2).revision, **values}
    return {**form, "fixture": fixture(shows, label).id} if label else form


def test_every_step_saves_one_named_edit(visitor: Visitor, shows: ShowStore) -> None:
    """Each button of the side panel is one edit with its own words on the log."""
    steps = [
        ("gap", "Lily 4", {}, "Lily 4 moved from U2 014 to U2 016"),
        ("pin", "Lily 4", {}, "Lily 4 pinned"),
        ("pin", "Lily 4", {}, "Lily 4 unpinned"),
        ("move", "Lily 4", {"address": "3/1"}, "Lily 4 moved from U2 016 to U3 001"),
        ("move", "Lily 4", {"address": "16", "u": 2}, "Lily 4 moved from U3 001 to U2 016"),
        (
            "block/split",
            "Gate A",
            {"also": fixture(shows, "Gate B").id},
            "Gate A and Gate B no longer share an address",
        ),
        ("gap", "Gate B", {}, "Gate B moved from U4 261 to U4 265"),
        ("block/set", "Storm", {}, "Storm set at the fixture"),
        ("block/set", "Storm", {}, "Storm not set after all"),
        ("block/swap", "Lily 1", {"also": fixture(shows, "Lily 2").id}, "Lily 1 and Lily 2 moved"),
        ("block/compact", "Storm", {"u": 2}, "11 fixtures, Rill 1 to Storm moved"),
        ("block/unplace", "Storm", {}, "Storm moved from U2 219 to no address"),
        ("gap", "Reed 5", {}, "Reed 5 moved from no address to U1 113"),
    ]
    for name, label, values, words in steps:
        answer = visitor.post(f"/shows/2/address/{name}", step(shows, label, seen="1", **values))
        assert answer.status_code == 302, answer.text
        assert shows.history(2)[0].words == words
    while shows.steps(2)[0]:
        visitor.post("/shows/2/undo", {"revision": shows.get(2).revision})
    assert shows.get(2).show == demo_show()


def test_the_repair_is_seen_then_made(visitor: Visitor, shows: ShowStore) -> None:
    """The preview lists each move and the stops then; making it ends them; undo brings all back."""
    text = visitor.get("/shows/2/address/repair?u=2").text
    assert "Move 4 of 61" in text
    for label in ("Fern 6", "Lily 4", "Bough 4", "Vine 2"):
        assert f"<b>{label}</b>" in text
    before = shows.get(2).show
    visitor.post("/shows/2/address/repair", step(shows))
    assert {f.box for f in analyse(shows.get(2).show).findings if f.severity == "stop"} == {
        "palm dock",
        "rill dock",
    }
    visitor.post("/shows/2/undo", {"revision": shows.get(2).revision})
    assert shows.get(2).show == before


def test_a_repair_that_moves_nothing_says_so_first(visitor: Visitor, shows: ShowStore) -> None:
    """Where all are pinned that clash, with their names; a show without stops is told apart."""
    saved = shows.get(2)
    clashing = {f for one in analyse(saved.show).findings for f in one.fixtures}
    pinned = edits.pin(saved.show, {f for f in clashing if saved.show.fixture(f).start})
    shows.save(saved, pinned, who="T")
    text = visitor.get("/shows/2/address/repair?u=2").text
    assert "Nothing can be moved" in text
    assert text.index("No move of addresses") < text.index("are pinned.") < text.index("stay where")
    assert 'id="apply"' not in text
    bare = visitor.get("/shows/1/address/repair?u=1").text
    assert "Nothing to move" in bare
    assert "No move of addresses" not in bare


def test_a_drag_is_told_what_it_would_hit(visitor: Visitor, shows: ShowStore) -> None:
    """Each slot under the pointer is answered: clear with where it would end, or what it would hit;
    pins hold."""
    storm, rack = fixture(shows, "Storm").id, fixture(shows, "Orchid rack").id

    def asked(pick: int, slot: int, universe: int = 2) -> dict[str, object]:
        path = f"/shows/2/address/try?pick={pick}&part=0&u={universe}&slot={slot}"
        answer: dict[str, object] = json.loads(visitor.get(path).text)
        return answer

    assert asked(storm, 400)["words"] == "Clear: U2 400 to 403"
    assert asked(storm, 400)["legal"] is True
    assert "Lily 1" in str(asked(storm, 1)["words"])
    assert "past the end" in str(asked(storm, 9999)["words"])
    assert "pinned" in str(asked(rack, 5, 1)["words"])
    drop = visitor.get(f"/shows/2/address/drop?pick={storm}&part=0&u=2&slot=1").text
    assert "Put Storm at U2 001" in drop
    assert 'value="2/1"' in drop


def test_universes_are_added_named_reserved_and_removed(visitor: Visitor, shows: ShowStore) -> None:
    """A universe's name and reserved slots are kept; one with fixtures is not removed; bad slots
    are named."""
    path = "/shows/2/address/universes"
    assert (
        visitor.post(path, step(shows, number=7, name="Spare", reserved="509-512, 1")).status_code
        == 302
    )
    assert shows.get(2).show.universe_by_number[7].reserved == (1, 509, 510, 511, 512)
    again = visitor.post(path, step(shows, number=7, name="Twice", reserved=""))
    assert (again.status_code, "already there" in again.text, 'value="Twice"' in again.text) == (
        422,
        True,
        True,
    )
    visitor.post(f"{path}/7", step(shows, number=7, name="Loft", reserved=""))
    assert shows.get(2).show.universe_by_number[7].title == "U7 Loft"
    wrong = visitor.post(f"{path}/7", step(shows, number=7, name="Loft", reserved="600"))
    assert (wrong.status_code, "no slot 600" in wrong.text, 'value="600"' in wrong.text) == (
        422,
        True,
        True,
    )
    assert "still has" in visitor.post(f"{path}/1/remove", step(shows)).text
    visitor.post(f"{path}/7/remove", step(shows))
    assert 7 not in shows.get(2).show.universe_by_number


def test_shows_are_copied_deleted_and_put_back(visitor: Visitor, shows: ShowStore) -> None:
    """Copy, delete, put back and remove for good, from the list of shows."""
    visitor.post("/shows/2/copy", {})
    assert shows.find("Glasshouse After Dark copy").show.fixtures == shows.get(2).show.fixtures
    visitor.post("/shows/2/delete", {})
    assert visitor.get("/shows/2/rig").status_code == 404
    assert "<h2>Deleted shows" in visitor.get("/").text
    visitor.post("/shows/2/put-back", {})
    assert visitor.get("/shows/2/rig").status_code == 200
    visitor.post("/shows/4/delete", {})
    visitor.post("/shows/4/remove", {})
    assert "<h2>Deleted shows" not in visitor.get("/").text


def test_the_desk_is_described_by_its_limits(visitor: Visitor, shows: ShowStore) -> None:
    """Limits typed in the settings become rules; a function that is not known is named with what
    was typed kept."""
    form = {
        "seen": "1",
        "name": "Small hall",
        "desk_name": "Toolbox",
        "desk_page": "16",
        "desk_buttons": "12",
        "desk_highest": "192",
    }
    wrong = visitor.post("/shows/2/settings", step(shows, **form, desk_layout="dimmer, twirl"))
    assert (
        wrong.status_code,
        "“twirl” is not a function" in wrong.text,
        'value="Toolbox"' in wrong.text,
    ) == (
        422,
        True,
        True,
    )
    visitor.post("/shows/2/settings", step(shows, **form, desk_layout="Master, red, green, blue"))
    desk = shows.get(2).show.desk
    assert (desk.page, desk.buttons, desk.highest, list(desk.layout)) == (
        16,
        12,
        192,
        ["dimmer", "red", "green", "blue"],
    )
    assert "unusable on this desk" in visitor.get("/shows/2/findings?q=palm").text


# ---- the side panel as values


def board(show: Show, asked: Asked, proposed: ProposedEdit | None = None) -> Board:
    return make_board(SavedShow(1, "k", 1, show), analyse(show), asked, proposed)


def test_the_panel_of_a_picked_fixture() -> None:
    """Its run, its problem with the mends, its slots and its switches, in plain values."""
    found = board(demo_show(), Asked(pick=28))
    assert found.universe.number == 2
    assert found.picked is not None
    assert found.picked.problems[0].mends[0].text == "Move Lily 4 to 16"
    assert [(line.slot, line.meaning) for line in found.picked.slots][:2] == [
        (14, "dimmer"),
        (15, "red"),
    ]
    assert found.picked.switches is not None
    assert [switch.number for switch in found.picked.switches.row if switch.on] == [2, 3, 4, 10]
    assert {misreading.address for misreading in found.picked.switches.misread} >= {7, 28}


def test_switches_that_cannot_hold_the_address_say_so() -> None:
    """A fixture planned beyond its switches shows the reason in place of a pattern."""
    show = demo_show()
    vine = next(f for f in show.fixtures if f.label == "Vine 2")
    found = board(show, Asked(pick=vine.id))
    assert found.picked is not None
    assert found.picked.switches is not None
    assert (
        found.picked.switches.row,
        "cannot hold address 300" in found.picked.switches.problem,
    ) == ((), True)


def test_a_proposal_tells_before_and_after() -> None:
    """Moves, verdicts and new problems of an edit that is only shown."""
    show = demo_show()
    after = edits.place(show, 28, Address(2, 1))
    found = board(show, Asked(pick=28), ProposedEdit(after, "t", "w", "/x", (), "Apply"))
    assert found.proposal is not None
    assert [(m.label, m.before, m.after) for m in found.proposal.moves] == [
        ("Lily 4", "U2 014", "U2 001")
    ]
    assert (found.proposal.before.stops, found.proposal.after.stops) == (7, 7)
    assert "Lily 1 and Lily 4 both start at 1." in found.proposal.new_findings[0].message
    assert found.drawing_then is not None
    assert [run.fixture for run in found.drawing_then.runs if run.moved] == [28]
    assert not [run for run in found.drawing.runs if run.moved]


@pytest.mark.parametrize(
    "asked", [Asked(), Asked(universe=9), Asked(pick=99, part=5), Asked(finding="gone")]
)
def test_what_is_not_there_is_left_out(asked: Asked) -> None:
    """A page for something that is gone shows the first universe and nothing picked."""
    found = board(rig(("A", 5, 1, 1), ("B", 500, 1, 6)), asked)
    assert (found.universe.number, found.picked, found.previous, found.next) == (
        1,
        None,
        None,
        None,
    )
    assert [(line.footprint, line.room) for line in found.rooms] == [(5, 1), (500, 0)]
    assert board(Show("Empty"), asked).universe.number == 1


def test_blocks_are_seen_and_moved(visitor: Visitor, shows: ShowStore) -> None:
    """Several picked move together by keys and by address, keep their gaps, and stay picked."""
    ids = [fixture(shows, f"Lily {n}").id for n in (5, 6, 7)]
    also = f"{ids[1]},{ids[2]}"
    page = visitor.get(f"/shows/2/address?u=2&pick={ids[0]}&also={also}").text
    assert "3 selected" in page
    assert f'data-also="{also}"' in page
    answer = visitor.post("/shows/2/address/nudge", step(shows, "Lily 5", by=5, also=also))
    assert answer.location.endswith(f"pick={ids[0]}&also={ids[1]},{ids[2]}")
    assert [fixture(shows, f"Lily {n}").start for n in (5, 6, 7)] == [26, 31, 36]
    visitor.post(
        "/shows/2/address/move", step(shows, "Lily 5", address="4/401", also=also, u=2, seen=1)
    )
    assert [str(fixture(shows, f"Lily {n}").patch[0]) for n in (5, 6, 7)] == [
        "U4 401",
        "U4 406",
        "U4 411",
    ]
    assert shows.history(2)[0].words == "3 fixtures, Lily 5 to Lily 7 moved"


def test_sharing_is_seen_with_what_it_costs(visitor: Visitor, shows: ShowStore) -> None:
    """Sharing is previewed with what is gained and given up, declared, and split again with room
    for each."""
    one, two = fixture(shows, "Lily 8").id, fixture(shows, "Lily 9").id
    look = f"/shows/2/address/block/share?pick={one}&also={two}"
    assert "Gained: 5 channels" in visitor.get(look).text
    assert "cannot be controlled apart" in visitor.get(look).text
    visitor.post("/shows/2/address/block/share", step(shows, pick=one, also=two))
    assert fixture(shows, "Lily 8").patch == fixture(shows, "Lily 9").patch
    assert (
        "1 keeps the address"
        in visitor.get(f"/shows/2/address/block/split?pick={one}&also={two}").text
    )
    visitor.post("/shows/2/address/block/split", step(shows, pick=one, also=two))
    assert fixture(shows, "Lily 9").start == 41
    assert (
        "not alike"
        in visitor.get(
            f"/shows/2/address/block/share?pick={one}&also={fixture(shows, 'Storm').id}"
        ).text
    )


def test_block_steps_that_cannot_be(visitor: Visitor, shows: ShowStore) -> None:
    """Nothing picked, three to swap, and a step that does not exist are told; the show stays."""
    before = shows.get(2).show
    lily = fixture(shows, "Lily 5").id
    for name, values, words in (
        ("pin", {}, "Select at least one"),
        ("swap", {"pick": lily, "also": f"{lily + 1},{lily + 2}"}, "3 fixtures are selected"),
        ("dance", {"pick": lily}, "Say what to do"),
        ("unplace", {"pick": 99999}, "no longer in the show"),
    ):
        answer = visitor.post(f"/shows/2/address/block/{name}", step(shows, **values))
        assert answer.status_code == 422
        assert words in answer.text
    assert shows.get(2).show == before


def test_other_ways_to_repair(visitor: Visitor, shows: ShowStore) -> None:
    """The repair says whether it is proven and why each moves; other ways are links, taken as they
    were seen."""
    page = visitor.get("/shows/2/address/repair?u=2").text
    assert "Proven: no repair moves less." in page
    assert "Lily 3 keeps 11 to 15." in page
    assert "Keep each in its universe" in page
    told = visitor.get(unescape(findall(r'hx-get="([^"]+others[^"]*)"', page)[0])).text
    assert search(r"Move everything behind along: \d+ moves, \d+ of them set already", told)
    assert findall(r'href="[^"]+"', told) == [
        link for link in findall(r'href="[^"]+"', page) if link in told
    ]
    lily3 = fixture(shows, "Lily 3").id
    first = visitor.get(f"/shows/2/address/repair?u=2&willing={lily3}").text
    assert "<b>Lily 3</b>" in first
    assert "<b>Lily 4</b>" not in first
    visitor.post("/shows/2/address/repair", step(shows, willing=str(lily3), closed="1"))
    assert fixture(shows, "Lily 4").start == 14


def test_findings_one_after_another(visitor: Visitor) -> None:
    """The next finding of a page leads through all of the rig and its cable, and around."""
    path, seen = "/shows/2/address?u=1", []
    here = [finding for finding in analyse(demo_show()).findings if finding.step != "Network"]
    for _ in range(len(here) + 1):
        link = search(r'id="next-finding" href="([^"]+)"', visitor.get(path).text)
        assert link
        path = unescape(link[1])
        seen.append(search(r"finding=([^&]+)", path)[1])  # type: ignore[index]
    assert len(set(seen)) == len(here)
    assert seen[0] == seen[len(set(seen))]
