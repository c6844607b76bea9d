"""Findings that are let stand: not counted, still listed, and there again when what they are about
changes."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.checks import analyse, check
from fence.core.edits.merge import merge
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.record import Witness
from fence.core.model.show import Show
from fence.demo import demo_show
from fence.formats.show_json import read_show_json, write_show_json
from tests.examples import examples
from tests.rigs import rich_rigs

BY = Witness("House crew", datetime(2026, 11, 28, 12, tzinfo=UTC))


@examples(120)
@given(rich_rigs(), st.data())
def test_what_is_let_stand_leaves_the_count_and_nothing_else(
    show: Show, data: st.DataObject
) -> None:
    """The findings are those of before without the one, which is listed with its reason; taking
    back brings it."""
    before = analyse(show)
    if not before.findings:
        return
    finding = data.draw(st.sampled_from(before.findings))
    waived = edits.waive(show, finding, "it is  meant so", BY)
    after = analyse(waived)
    same = [
        one for one in before.findings if (one.key, one.message) == (finding.key, finding.message)
    ]
    assert [one for one in before.findings if one not in same] == list(after.findings)
    assert [(one.key, waiver.reason) for one, waiver in after.waived] == [
        (one.key, "it is meant so") for one in same
    ]
    assert list(check(waived)) == [one for one in check(show) if one not in same]
    back = analyse(edits.unwaive(waived, finding.key))
    assert (back.findings, back.verdict, back.waived) == (before.findings, before.verdict, ())
    assert read_show_json(write_show_json(waived).encode()).waivers == waived.waivers


def test_it_comes_back_when_what_it_is_about_changes() -> None:
    """A clash that is let stand is there again once one of the two moves and still clashes; not for
    others."""
    show = demo_show()
    clash = next(finding for finding in analyse(show).findings if finding.rule == "overlap")
    waived = edits.waive(show, clash, "both follow the dimmer", BY)
    other = next(
        f for f in show.fixtures if f.id not in clash.fixtures and f.universe != clash.universe
    )
    calm = analyse(edits.rename(waived, other.id, "Elsewhere 9"))
    assert (len(calm.waived), calm.verdict.stops) == (1, analyse(show).verdict.stops - 1)
    first = waived.fixture(clash.fixtures[0])
    moved = edits.place(waived, first.id, Address(first.universe or 1, (first.start or 2) + 1))
    assert not analyse(moved).waived
    assert any(
        f.rule == "overlap" and set(f.fixtures) == set(clash.fixtures)
        for f in analyse(moved).findings
    )
    with pytest.raises(EditError, match="not accepted"):
        edits.unwaive(show, clash.key)
    with pytest.raises(EditError, match="A reason is needed"):
        edits.waive(show, clash, "  ", BY)


def test_two_people_let_two_things_stand() -> None:
    """Both are kept, whoever saves second."""
    show = demo_show()
    one, two = analyse(show).findings[:2]
    joined = merge(show, edits.waive(show, one, "a", BY), edits.waive(show, two, "b", BY))
    assert not joined.collisions
    assert {waiver.key for waiver in joined.show.waivers} == {one.key, two.key}
