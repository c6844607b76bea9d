"""A new show with its desk, known everywhere from the start."""

from __future__ import annotations

import pytest

from fence.core.model.profile import Function
from fence.store.shows import ShowStore
from tests.conftest import Visitor


def newest(shows: ShowStore) -> int:
    return max(summary.id for summary in shows.list_shows())


@pytest.mark.parametrize(("typed", "listed"), [("", 1), ("4", 4), ("16", 16), ("17", 16)])
def test_universes_of_the_desk_are_known(
    visitor: Visitor, shows: ShowStore, typed: str, listed: int
) -> None:
    """They are listed as far as they are few, and the desk keeps their number."""
    assert visitor.post("/shows", {"name": "Walk", "desk_universes": typed}).status_code == 302
    show = shows.get(newest(shows)).show
    assert [universe.number for universe in show.universes] == list(range(1, listed + 1))
    assert show.desk.universes == (int(typed) if typed else None)


def test_a_ready_made_desk(visitor: Visitor, shows: ShowStore) -> None:
    """Its limits are taken; what was typed comes before them."""
    form = {"name": "Walk", "ready": "dibble", "desk_name": "Our small one", "desk_buttons": "3"}
    visitor.post("/shows", form)
    desk = shows.get(newest(shows)).show.desk
    assert (desk.name, desk.page, desk.buttons) == ("Our small one", 5, 3)
    assert desk.layout[:2] == (Function.DIMMER, Function.RED)


def test_what_is_wrong_with_a_desk_is_told_at_once(visitor: Visitor, shows: ShowStore) -> None:
    """Nothing is made, and all that was typed is still there."""
    before = newest(shows)
    form = {"name": "Walk", "desk_layout": "dimmer, blorb", "desk_page": "5"}
    refused = visitor.post("/shows", form)
    assert refused.status_code == 422
    assert "“blorb” is not a function" in refused.text
    for kept in ('value="Walk"', 'value="dimmer, blorb"', 'value="5"'):
        assert kept in refused.text
    assert newest(shows) == before
