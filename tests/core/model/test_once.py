"""What is kept with a show: of each show its own, of each question the latest few answers, and
nothing that another plan would make untrue."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property

import pytest

from fence.core.model.errors import EditError
from fence.core.model.line import Line
from fence.core.model.once import MOST_KEPT, once_a_show
from fence.core.model.show import Show
from fence.demo import clean_show, demo_show


def test_each_answer_is_worked_out_once_a_show() -> None:
    """Another show is asked anew, and so is what was asked longest ago; what was refused is not
    kept."""
    asked: list[tuple[str, int]] = []

    @once_a_show
    def counted(show: Show, step: int = 1) -> int:
        asked.append((show.name, step))
        if step < 0:
            raise EditError("Up only.")
        return len(show.fixtures) * step

    first, second = demo_show(), clean_show()
    assert counted(first) == counted(first) == len(first.fixtures)
    assert counted(second) == len(second.fixtures)
    assert asked == [(first.name, 1), (second.name, 1)]
    asked.clear()
    for step in range(2, MOST_KEPT + 2):
        assert counted(first, step) == counted(first, step) == len(first.fixtures) * step
    assert len(asked) == MOST_KEPT
    asked.clear()
    counted(first, MOST_KEPT + 1)  # the latest
    counted(first)  # the oldest
    assert asked == [(first.name, 1)]
    asked.clear()
    for _ in range(2):
        with pytest.raises(EditError, match="Up only"):
            counted(second, -1)
    assert len(asked) == 2
    asked.clear()
    counted(replace(second, note="Changed"))
    assert asked == [(second.name, 1)]


KEPT = [name for name, held in vars(Show).items() if isinstance(held, cached_property)]


@pytest.mark.parametrize("other", [clean_show().lines, ()], ids=["another plan", "none"])
def test_what_is_kept_beside_other_lines_is_what_a_new_show_would_find(
    other: tuple[Line, ...],
) -> None:
    """Whatever a show has found out before it gets other lines."""
    show = demo_show()
    assert show.lines not in ((), other)
    for name in KEPT:
        getattr(show, name)
    for universe in show.universe_numbers:
        show.owned_in(universe)
        show.taken_in(universe)
        show.runs_in(universe)
    show.worked_out["told"] = "of the old lines"
    moved, new = show.with_lines(other), replace(show, lines=other)
    assert moved == new
    for universe in show.universe_numbers:
        assert moved.owned_in(universe) == new.owned_in(universe)
        assert moved.taken_in(universe) == new.taken_in(universe)
        assert moved.runs_in(universe) == new.runs_in(universe)
    for name in KEPT:
        assert getattr(moved, name) == getattr(new, name), name
