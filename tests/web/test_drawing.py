"""The fence as numbers: what is drawn is what is there."""

from __future__ import annotations

import re
from itertools import pairwise

import pytest
from hypothesis import given

from fence.core import edits
from fence.core.checks import findings_of
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.demo import demo_show
from fence.web.address.drawing import (
    DIGIT_WIDTH,
    LETTER_WIDTH,
    Text,
    draw_card,
    draw_fence,
)
from fence.web.address.rails import NARROW, RAIL_PITCH, TIP, WIDE, Rails
from tests.rigs import rig, rigs

RAILS = (WIDE, NARROW)
PLACES = {
    on: {(on.x_of(slot) + on.width, on.y_of(slot) + TIP): slot for slot in range(1, 513)}
    for on in RAILS
}


def slots_drawn(path: str, on: Rails = WIDE) -> list[int]:
    """The slots whose pickets a path draws."""
    return [PLACES[on][int(x), int(y)] for x, y in re.findall(r"M(\d+),(\d+)v", path)]


@given(rigs(universes=2))
def test_every_slot_is_drawn_as_what_it_is(show: Show) -> None:
    """Taken slots stand in their runs, free ones are outlined, clashes striped, and nothing is
    drawn twice."""
    findings = findings_of(show)
    for universe in show.universes:
        on = RAILS[universe.number % 2]
        drawing = draw_fence(show, universe.number, findings, on=on)
        taken = set()
        for run in drawing.runs:
            body = slots_drawn(run.head, on) + slots_drawn(run.body, on)
            assert body == list(range(run.start, min(run.start + run.length - 1, 512) + 1))
            assert bool(run.fallen) == (run.start + run.length - 1 > 512)
            taken |= set(body)
        reserved = set(universe.reserved)
        assert set(slots_drawn(drawing.free, on)) == set(range(1, 513)) - taken - reserved
        clashing = {
            slot
            for finding in findings
            if finding.universe == universe.number and finding.rule in ("overlap", "reserved")
            for slot in range(finding.first or 0, min(finding.last or 0, 512) + 1)
        }
        striped = {slot for run in drawing.runs for slot in slots_drawn(run.clash, on)}
        assert striped - reserved <= clashing
        assert {
            s
            for f in findings
            if f.rule == "overlap" and f.universe == universe.number
            for s in range(f.first or 0, min(f.last or 0, 512) + 1)
        } <= striped


def extents(texts: list[Text], width: float) -> dict[float, list[tuple[float, float]]]:
    lines: dict[float, list[tuple[float, float]]] = {}
    for text in texts:
        lines.setdefault(text.y, []).append((text.x, text.x + len(text.words) * width))
    return {y: sorted(pieces) for y, pieces in lines.items()}


@given(rigs(most=30, widest=9))
def test_no_words_are_written_over_others(show: Show) -> None:
    """Start addresses and names find room of their own, or are left out."""
    for universe in show.universes:
        drawing = draw_fence(
            show, universe.number, findings_of(show), on=RAILS[universe.number % 2]
        )
        for texts, width in (
            ([run.address for run in drawing.runs if run.address], DIGIT_WIDTH),
            ([run.name for run in drawing.runs if run.name], LETTER_WIDTH),
        ):
            for pieces in extents(texts, width).values():
                for before, after in pairwise(pieces):
                    assert before[1] <= after[0]


def test_a_run_that_wraps_goes_on_at_the_next_rail() -> None:
    """A run over three rails has three pieces, from edge to edge."""
    pieces = WIDE.segments_of(60, 140)
    edge = WIDE.end - WIDE.pitch + WIDE.width
    assert [(piece.x1, piece.x2) for piece in pieces] == [
        (WIDE.x_of(60), edge),
        (WIDE.x_of(1), edge),
        (WIDE.x_of(1), WIDE.x_of(140) + WIDE.width),
    ]
    assert [piece.y for piece in pieces] == [
        WIDE.y_of(1),
        WIDE.y_of(1) + RAIL_PITCH,
        WIDE.y_of(1) + 2 * RAIL_PITCH,
    ]
    assert [piece.y for piece in NARROW.segments_of(60, 66)] == [NARROW.y_of(33), NARROW.y_of(65)]


@pytest.mark.parametrize("on", RAILS)
def test_fallen_pickets_lie_within_the_drawing(on: Rails) -> None:
    """However many fall, all that are drawn can be seen."""
    assert on.fallen_path(0) == ""
    for path in (on.fallen_path(1), on.fallen_path(99)):
        for x, lean in re.findall(r"M(\d+),\d+l([\d.]+),", path):
            assert on.end < int(x) < int(x) + float(lean) + 5 <= on.whole_width
    assert (
        on.fallen_path(99).count("M") == on.fallen_path(5).count("M") == {64: 5, 32: 1}[on.pickets]
    )


def test_signs_of_a_run() -> None:
    """Pins, declared shares and problems show on the run, and a share is drawn once with all its
    names."""
    show = demo_show()
    drawings = {n: draw_fence(show, n, findings_of(show), picked=[28]) for n in (1, 2, 3, 4)}
    runs = {run.title.split(",")[0]: run for drawing in drawings.values() for run in drawing.runs}
    assert runs["Orchid rack"].pinned
    assert runs["Gate A and Gate B"].shared
    assert runs["Gate A and Gate B"].name == Text(
        WIDE.x_of(257), WIDE.y_of(257) + 56, "Gate A + Gate B"
    )
    assert (runs["Lily 3"].bad, runs["Lily 2"].bad, runs["Lily 4"].picked) == (True, False, True)
    assert runs["Bough 4"].fallen.count("M") == 5
    assert "Lily 3 ends at 15" in runs["Lily 3"].title
    assert [gap.words for gap in drawings[1].gaps if gap.words.startswith("179")] == ["179 free"]
    assert drawings[1].reserved


def test_small_universes_carry_the_same_runs() -> None:
    """A card has a bar for each run, cut at slot 512, and marks those with a stop."""
    show = edits.place(demo_show(), 1, Address(3, 505))
    card = draw_card(show, 3, 7, {53})
    assert card.stops == 7
    assert {(bar.first, bar.length, bar.bad) for bar in card.bars} >= {
        (1, 110, False),
        (489, 24, True),
        (505, 8, False),
    }


def test_neighbours_of_one_position_differ() -> None:
    """Of runs in one colour beside each other every other one has a second shade; another colour
    begins anew."""
    show = rig(*((f"F{n}", 4, 1, 1 + 4 * n) for n in range(5)))
    show = edits.set_position(edits.set_position(show, [1, 2, 3], "Oak"), [4, 5], "Elm")
    assert [run.odd for run in draw_fence(show, 1, ()).runs] == [False, True, False, False, True]
