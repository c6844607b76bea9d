"""What is called new is new, and nothing that got worse is kept quiet: keys of findings, what is
told of a change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.checks import Severity, analyse, check, news, news_of_the_plan
from fence.core.edits import with_places
from fence.core.model.box import Box, BoxKind, Port, Protocol, Way
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from tests.promises.whole import whole_shows
from tests.rigs import bare

RGB = (Channel(Function.RED), Channel(Function.GREEN), Channel(Function.BLUE))


@given(whole_shows())
def test_no_two_findings_share_a_key(show: Show) -> None:
    """Each finding has a key of its own, so that a mend or a waiver is taken for the one that was
    meant."""
    seen: dict[str, str] = {}
    for finding in check(show):
        assert finding.key not in seen, (finding.message, seen[finding.key])
        seen[finding.key] = finding.message


@given(whole_shows(), whole_shows())
def test_what_got_worse_is_new(before: Show, after: Show) -> None:
    """Two shows of anything: a stop is told whenever no stop of its rule was there; what is told
    was not there as bad; and nothing is new where nothing changed."""
    known, found = list(check(before)), list(check(after))
    told = news(known, found)
    stopped = {finding.rule for finding in known if finding.severity is Severity.STOP}
    said = {(finding.message, finding.severity) for finding in told}
    for finding in found:
        if finding.severity is Severity.STOP and finding.rule not in stopped:
            assert (finding.message, finding.severity) in said
    ranks = {finding.key: finding.severity.rank for finding in known}
    assert all(
        finding.key not in ranks or ranks[finding.key] > finding.severity.rank for finding in told
    )
    assert news(found, found) == []


def small(count: int = 2) -> Show:
    """Some pars of four channels each, back to back on universe 1."""
    par = bare(4)
    pars = tuple(
        Fixture(i, f"F{i}", par.id, "m", i, patch=(Patch(1, 4 * i),)) for i in range(1, count + 1)
    )
    return with_places(Show("S", pars, (par,), next_id=99))


def thirty_two_on_a_line() -> Show:
    show = edits.add_line(small(33), "L", 1)
    return edits.terminate(edits.chain(show, 1, range(1, 33)), 1)


def desk_and_node() -> Show:
    desk = Box(1, "desk", BoxKind.DESK, "10.0.0.1")
    node = Box(2, "node", ip="10.0.0.2", way=Way.BROADCAST, ports=(Port(1, 1),))
    return replace(small(), boxes=(desk, node))


def two_sharers() -> Show:
    one = Profile("a", "Trowel", "One", (Mode("rgb", (Part(3, RGB),)),))
    two = Profile(
        "b", "Trowel", "Two", (Mode("rgb", (Part(3, RGB),)), Mode("bgr", (Part(3, RGB[::-1]),)))
    )
    place = (Patch(1, 1),)
    sharers = (
        Fixture(1, "A", "a", "rgb", 1, patch=place, share="g"),
        Fixture(2, "B", "b", "rgb", 2, patch=place, share="g"),
    )
    return with_places(Show("S", sharers, (one, two), next_id=9))


WORSE: list[tuple[str, Callable[[], Show], Callable[[Show], Show], str]] = [
    ("the 33rd load", thirty_two_on_a_line, lambda s: edits.chain(s, 1, [33]), "33 unit loads"),
    (
        "a desk set to Art-Net",
        desk_and_node,
        lambda s: edits.change_box(s, 1, protocol=Protocol.ARTNET),
        "listens",
    ),
    (
        "sharers that read otherwise",
        two_sharers,
        lambda s: edits.change_mode(s, [2], "bgr"),
        "another way",
    ),
    ("a sharer that moved off", two_sharers, lambda s: moved_off(s), "is at"),
]


def moved_off(show: Show) -> Show:
    """The second of the sharers alone at another address, as a file from elsewhere may have it."""
    return replace(
        show, fixtures=(show.fixtures[0], replace(show.fixtures[1], patch=(Patch(1, 9),)))
    )


@pytest.mark.parametrize(
    ("start", "change", "words"), [c[1:] for c in WORSE], ids=[c[0] for c in WORSE]
)
def test_a_stop_where_a_lesser_finding_stood_is_new(
    start: Callable[[], Show], change: Callable[[Show], Show], words: str
) -> None:
    """What was said as a note or a caution before, or something else of the same rule and place,
    hides no stop."""
    before = start()
    told = news_of_the_plan(analyse(before), analyse(change(before)))
    assert any(words in finding.message and finding.severity is Severity.STOP for finding in told)


@given(st.sampled_from([31, 32]))
def test_what_stays_as_bad_is_not_new(count: int) -> None:
    """One more load among those that one driver feeds is said as before, and is no news."""
    show = edits.chain(edits.add_line(small(33), "L", 1), 1, range(1, count))
    after = edits.chain(show, 1, [count])
    assert not [f for f in news(check(show), check(after)) if f.rule == "line-load"]


def test_a_waiver_from_before_still_holds() -> None:
    """What was let stand under the old kind of key stays so, and can be taken back."""
    show = edits.add_line(small(33), "L", 1)
    show = edits.chain(show, 1, range(1, 21))
    open_end = next(finding for finding in check(show) if finding.rule == "unterminated")
    held = edits.waive(show, open_end, "It is short.")
    old = replace(held, waivers=(replace(held.waivers[0], key=open_end.old_key),))
    assert open_end.old_key != open_end.key
    assert [finding.key for finding, _ in analyse(old).waived] == [open_end.key]
    assert not edits.unwaive(old, open_end.old_key).waivers
