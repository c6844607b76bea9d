"""What fixtures take, followed through edits, beside a look at all of them."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from fence.core.checks import check
from fence.core.model.address import SLOTS
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.occupancy import Occupancy, read_fixtures
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Setter, SetterKind
from fence.core.model.record import Seen, SetTo, Sign
from fence.core.model.show import Show
from tests.examples import examples
from tests.rigs import bare, rig, rigs

SLOT = st.one_of(st.integers(1, 40), st.integers(1, SLOTS))
PATCH = st.one_of(st.builds(Patch, st.integers(1, 4), SLOT), st.just(Patch()))


@st.composite
def edited(draw: st.DrawFn, show: Show) -> Show:
    """The show after one edit: of fixtures, of their number, or of what they are measured by."""
    fixtures = list(show.fixtures)
    what = draw(
        st.sampled_from(["change", "change", "add", "remove", "swap", "chart", "desk", "reserved"])
    )
    if what == "desk":
        return replace(show, desk=Desk(universes=draw(st.one_of(st.none(), st.integers(1, 3)))))
    if what == "reserved":
        kept = tuple(sorted(draw(st.sets(SLOT, max_size=2))))
        numbered = tuple(replace(universe, reserved=kept) for universe in show.universes)
        return replace(show, universes=numbered)
    if what == "chart":  # comes in, goes out, or becomes another
        number = draw(st.sampled_from([5, 6]))
        others = [profile for profile in show.profiles if profile.id != f"p{number}"]
        kept = draw(st.sampled_from([others, [*others, bare(number)], [bare(number), *others]]))
        return replace(show, profiles=tuple(kept))
    if what == "add" or not fixtures:
        profile = draw(st.sampled_from(show.profiles)).id if show.profiles else "gone"
        more = [
            Fixture(show.next_id + place, "Added", profile, "m", patch=(draw(PATCH),))
            for place in range(draw(st.integers(1, 3)))
        ]
        added = (*fixtures, *more)
        return replace(show, fixtures=added, next_id=show.next_id + len(more))
    at = draw(st.integers(0, len(fixtures) - 1))
    if what == "remove":
        del fixtures[at]
    elif what == "swap":
        fixtures[at], fixtures[-1] = fixtures[-1], fixtures[at]
    else:
        changes: dict[str, Any] = draw(
            st.sampled_from(
                [
                    {"patch": (draw(PATCH),)},
                    {"label": "Renamed"},
                    {"profile": draw(st.sampled_from(["p5", "p6"]))},
                    {"mode": draw(st.sampled_from(["m", "gone"]))},
                    {"share": draw(st.sampled_from(["", "g1", "g2", "g3"]))},
                    {"pinned": True},
                    {"note": "Seen"},
                    {"set_to": draw(st.sampled_from([None, SetTo("m", (Patch(1, 1),))]))},
                    {"sign": draw(st.sampled_from([None, Sign(Seen.DARK)]))},
                ]
            )
        )
        fixtures[at] = replace(fixtures[at], **changes)
    return replace(show, fixtures=tuple(fixtures))


def told(found: Occupancy) -> dict[str, object]:
    """All that a look found, but for what others keep beside it."""
    return {one.name: getattr(found, one.name) for one in fields(found) if one.compare}


def unknown(show: Show) -> Show:
    """The same show, of which nothing has been found out yet: other fixtures that are equal."""
    fixtures = tuple(replace(fixture) for fixture in show.fixtures)
    return replace(show, fixtures=fixtures, profiles=tuple(map(replace, show.profiles)))


@examples(300)
@given(rigs(), st.data())
def test_what_is_followed_is_what_would_be_read(show: Show, data: st.DataObject) -> None:
    """Edit after edit, and back: what fixtures take and what the rules say is as if the show had
    been opened anew."""
    if data.draw(st.booleans()):  # few switches: many an address cannot be set
        setter = Setter(SetterKind.SWITCHES, switches=5)
        show = replace(show, profiles=tuple(replace(p, setter=setter) for p in show.profiles))
    shows = [show]
    for _ in range(data.draw(st.integers(1, 5))):
        shows.append(data.draw(edited(data.draw(st.sampled_from(shows)))))
        if data.draw(st.booleans()):
            list(check(shows[-1]))
    for each in shows:
        anew = unknown(each)
        assert told(each.occupancy) == told(read_fixtures(anew.fixtures, anew.profiles))
        assert list(each.occupancy.groups) == list(anew.occupancy.groups)
        assert list(check(each)) == list(check(anew))
        assert each.taken == anew.taken


def test_only_what_changed_is_read_again() -> None:
    """A move in one universe leaves what was found of the other, and its findings, as they are."""
    show = rig(
        ("Fern", 4, 1, 1), ("Lily", 4, 1, 3), ("Moss", 4, 2, 1), ("Reed", 4, 2, 2), ("Ivy", 4, 3, 1)
    )
    before = list(check(show))
    moved = replace(
        show, fixtures=(replace(show.fixtures[0], patch=(Patch(1, 9),)), *show.fixtures[1:])
    )
    after = list(check(moved))
    assert moved.occupancy.spans[2] is show.occupancy.spans[2]
    assert [finding.fixtures for finding in before] == [(1, 2), (3, 4)]
    assert [finding.fixtures for finding in after] == [(3, 4)]
    assert after[0] is before[1]
    noted = replace(moved, note="Nothing else")
    assert noted.occupancy is moved.occupancy


def test_a_chart_that_comes_in_is_read() -> None:
    """Behind the others, for fixtures whose mode was missing, or a second one under a name."""
    show = rig(("Fern", 4, 1, 1), ("Lily", 5, 1, 3))
    bare_show = replace(show, profiles=show.profiles[:1])
    assert bare_show.occupancy.modeless == [1]
    with_chart = replace(bare_show, profiles=(*bare_show.profiles, bare(5)))
    assert with_chart.occupancy.spans[1] == [(1, 4, 0, 0), (3, 7, 1, 0)]
    assert show.occupancy.spans[1] == with_chart.occupancy.spans[1]
    other = replace(bare(4), modes=(Mode("m", (Part(9),)),))
    twice = replace(with_chart, profiles=(*with_chart.profiles, other))
    assert twice.occupancy.spans[1] == [(1, 9, 0, 0), (3, 7, 1, 0)]
