"""What a small desk cannot do."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.addressing.mends import ChangeMode, Move, apply_mend, mends_for
from fence.core.addressing.repair import repair_rig
from fence.core.checks import check
from fence.core.checks.desk import matches_layout
from fence.core.model.desk import Desk
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from fence.demo import clean_show
from tests.rigs import bare, rig, rigs

F = Function


def mode(name: str, *functions: Function) -> Mode:
    return Mode(name, (Part(len(functions), tuple(Channel(function) for function in functions)),))


def rules_of(show: Show) -> list[tuple[str, tuple[int, ...]]]:
    return [(finding.rule, finding.fixtures) for finding in check(show)]


CASES = [
    ("on its pages", Desk("D", page=16), rig(("A", 16, 1, 1), ("B", 4, 1, 17)), []),
    ("between pages", Desk("D", page=16), rig(("A", 4, 1, 9)), [("page-grid", (1,))]),
    ("too large for a page", Desk("D", page=16), rig(("A", 17, 1, 1)), [("page-size", (1,))]),
    ("enough buttons", Desk("D", buttons=2), rig(("A", 4, 1, 1), ("B", 4, 1, 5)), []),
    (
        "one too many",
        Desk("D", buttons=1),
        rig(("A", 4, 1, 1), ("B", 4, 1, 5)),
        [("desk-fixtures", (2,))],
    ),
    ("no channels, no button", Desk("D", buttons=1), rig(("A", 4, 1, 1), ("B", 0, None, None)), []),
    ("inside its slots", Desk("D", highest=192), rig(("A", 4, 1, 189)), []),
    ("beyond its slots", Desk("D", highest=192), rig(("A", 4, 1, 190)), [("universe-limit", (1,))]),
    (
        "past the end is told once",
        Desk("D", highest=192),
        rig(("A", 4, 1, 510)),
        [("past-end", (1,))],
    ),
    ("unknown chart", Desk("D", layout=(F.RED,)), rig(("A", 1, 1, 1)), [("desk-layout", (1,))]),
]


@pytest.mark.parametrize(
    ("desk", "show", "expected"), [case[1:] for case in CASES], ids=[case[0] for case in CASES]
)
def test_limits_at_their_edges(
    desk: Desk, show: Show, expected: list[tuple[str, tuple[int, ...]]]
) -> None:
    """Each limit speaks just where it begins."""
    assert rules_of(replace(show, desk=desk)) == expected


def test_sharers_need_one_button() -> None:
    """Fixtures that share an address on purpose count once."""
    show = edits.share(rig(("A", 4, 1, 1), ("B", 4, 1, 5), ("C", 4, 1, 9)), [1, 2])
    assert rules_of(replace(show, desk=Desk(buttons=2))) == []
    assert rules_of(replace(show, desk=Desk(buttons=1))) == [("desk-fixtures", (3,))]


def test_a_fixed_layout_names_what_does_not_match_and_what_would() -> None:
    """The first channel that differs is named, the modes that fit are offered, and their absence is
    said."""
    layout = (F.DIMMER, F.RED, F.GREEN, F.BLUE)
    par = Profile(
        "par",
        "T",
        "Par",
        (mode("3", F.RED, F.GREEN, F.BLUE), mode("4", *layout), mode("1", F.DIMMER)),
    )
    spot = Profile("spot", "T", "Spot", (mode("2", F.PAN, F.TILT),))
    show = Show("S", desk=Desk("Small", layout=layout))
    show = edits.add_fixtures(show, edits.AddRun(par, "3", 1, "Par"))
    show = edits.add_fixtures(show, edits.AddRun(spot, "2", 1, "Spot"))
    first, second = check(show)
    assert first.message == (
        "Par: channel 1 of 3 is red, the desk sends dimmer (dimmer, red, green, blue). Modes that "
        "fit: 4, 1."
    )
    assert "unusable on this desk" in second.message
    offered = mends_for(show, first)
    assert [mend.action for mend in offered] == [ChangeMode(1, "4"), ChangeMode(1, "1")]
    assert [
        ids for rule, ids in rules_of(apply_mend(show, offered[0])) if rule == "desk-layout"
    ] == [(2,)]
    assert mends_for(show, second) == []
    assert matches_layout(par.modes[1], layout)
    assert not matches_layout(mode("5", *layout, F.WHITE), layout)


paged = st.sampled_from([4, 16, 20, 100])


@given(rigs(most=8, widest=20), paged, st.sampled_from([192, 400, 512]))
def test_moves_land_on_pages_that_the_desk_sends(show: Show, page: int, highest: int) -> None:
    """Every offered move stands on a page of the desk, inside its slots."""
    show = replace(show, desk=Desk("D", page=page, highest=highest))
    for finding in check(show):
        for mend in mends_for(show, finding):
            if isinstance(mend.action, Move):
                rules = {
                    f.rule
                    for f in check(apply_mend(show, mend))
                    if mend.action.fixture in f.fixtures
                }
                assert not rules & {
                    "overlap",
                    "past-end",
                    "reserved",
                    "page-grid",
                    "universe-limit",
                    "page-size",
                }


@given(rigs(most=8, widest=20), paged)
def test_a_repair_puts_fixtures_on_pages(show: Show, page: int) -> None:
    """After the repair only pinned fixtures, their sharers and those without a place are off the
    pages."""
    show = replace(show, desk=Desk("D", page=page))
    repair = repair_rig(show)
    pinned = [fixture for fixture in show.fixtures if fixture.pinned]
    stuck = {sharer.id for fixture in pinned for sharer in show.sharers_of(fixture)} | set(
        repair.unplaced
    )
    for finding in check(repair.show):
        if finding.rule == "page-grid":
            assert set(finding.fixtures) <= stuck


def test_a_run_is_added_page_by_page() -> None:
    """On a desk with pages a run without an address takes the next pages."""
    show = replace(edits.add_universe(Show("S"), 1), desk=Desk(universes=1, page=16, highest=64))
    show = edits.add_fixtures(show, edits.AddRun(bare(5), "m", 6, "A"))
    assert [fixture.start for fixture in show.fixtures] == [1, 17, 33, 49, None, None]


def test_a_free_desk_says_nothing() -> None:
    """A desk without limits adds no finding to what the universes and the network say."""
    assert {rule for rule, _ in rules_of(clean_show())} == {"universe-full", "port-universe"}
