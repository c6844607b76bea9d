"""The fence as numbers: what is drawn is what is there."""

from __future__ import annotations

import re
from itertools import pairwise

from hypothesis import given

from fence.core.changes import edits
from fence.core.checks import findings_of
from fence.core.words.address import Address, Run
from fence.core.words.show import Show
from fence.demo import demo_show
from fence.web.address.drawing import (
    DIGIT_WIDTH,
    END,
    LETTER_WIDTH,
    PICKET_WIDTH,
    PICKETS,
    PITCH,
    RAIL_PITCH,
    TIP,
    Text,
    draw_card,
    draw_fence,
    fallen_path,
    segments_of,
    x_of,
    y_of,
)
from tests.rigs import rig, rigs

PLACES = {(x_of(slot) + PICKET_WIDTH, y_of(slot) + TIP): slot for slot in range(1, 513)}


def slots_drawn(path: str) -> list[int]:
    """The slots whose pickets a path draws."""
    return [PLACES[int(x), int(y)] for x, y in re.findall(r"M(\d+),(\d+)v", path)]


@given(rigs(universes=2))
def test_every_slot_is_drawn_as_what_it_is(show: Show) -> None:
    """Taken slots stand in their runs, free ones are outlined, clashes striped, and nothing is drawn twice."""
    findings = findings_of(show)
    for universe in show.universes:
        drawing = draw_fence(show, universe.number, findings)
        taken = set()
        for run in drawing.runs:
            body = slots_drawn(run.head) + slots_drawn(run.body)
            assert body == list(range(run.start, min(run.start + run.length - 1, 512) + 1))
            assert bool(run.fallen) == (run.start + run.length - 1 > 512)
            taken |= set(body)
        reserved = set(universe.reserved)
        assert set(slots_drawn(drawing.free)) == set(range(1, 513)) - taken - reserved
        clashing = {
            slot
            for finding in findings
            if finding.universe == universe.number and finding.rule in ("overlap", "reserved")
            for slot in range(finding.first or 0, min(finding.last or 0, 512) + 1)
        }
        striped = {slot for run in drawing.runs for slot in slots_drawn(run.clash)}
        assert striped - reserved <= clashing
        assert {s for f in findings if f.rule == "overlap" and f.universe == universe.number
                for s in range(f.first or 0, min(f.last or 0, 512) + 1)} <= striped  # fmt: skip


def extents(texts: list[Text], width: float) -> dict[float, list[tuple[float, float]]]:
    lines: dict[float, list[tuple[float, float]]] = {}
    for text in texts:
        lines.setdefault(text.y, []).append((text.x, text.x + len(text.words) * width))
    return {y: sorted(pieces) for y, pieces in lines.items()}


@given(rigs(most=30, widest=9))
def test_no_words_are_written_over_others(show: Show) -> None:
    """Start addresses and names find room of their own, or are left out."""
    for universe in show.universes:
        drawing = draw_fence(show, universe.number, findings_of(show))
        for texts, width in (
            ([run.address for run in drawing.runs if run.address], DIGIT_WIDTH),
            ([run.name for run in drawing.runs if run.name], LETTER_WIDTH),
        ):
            for pieces in extents(texts, width).values():
                for before, after in pairwise(pieces):
                    assert before[1] <= after[0]


def test_a_run_that_wraps_goes_on_at_the_next_rail() -> None:
    """A run over three rails has three pieces, from edge to edge."""
    pieces = segments_of(60, 140)
    assert [(piece.x1, piece.x2) for piece in pieces] == [
        (x_of(60), END - PITCH + PICKET_WIDTH),
        (x_of(1), END - PITCH + PICKET_WIDTH),
        (x_of(1), x_of(140) + PICKET_WIDTH),
    ]
    assert [piece.y for piece in pieces] == [y_of(1), y_of(1) + RAIL_PITCH, y_of(1) + 2 * RAIL_PITCH]
    assert fallen_path(0) == ""
    assert fallen_path(99).count("M") == fallen_path(6).count("M") == 6


def test_signs_of_a_run() -> None:
    """Pins, declared shares and problems show on the run, and a share is drawn once with all its names."""
    show = demo_show()
    drawings = {n: draw_fence(show, n, findings_of(show), picked=[28]) for n in (1, 2, 3, 4)}
    runs = {run.title.split(",")[0]: run for drawing in drawings.values() for run in drawing.runs}
    assert runs["Orchid rack"].pinned
    assert runs["Gate A and Gate B"].shared
    assert runs["Gate A and Gate B"].name == Text(x_of(257), y_of(257) + 56, "Gate A + Gate B")
    assert (runs["Lily 3"].bad, runs["Lily 2"].bad, runs["Lily 4"].picked) == (True, False, True)
    assert runs["Bough 4"].fallen.count("M") == 6
    assert "Lily 3 ends at 15" in runs["Lily 3"].title
    assert [gap.words for gap in drawings[1].gaps if gap.words.startswith("179")] == ["179 free"]
    assert drawings[1].reserved


def test_ghosts_show_where_an_edit_would_stand() -> None:
    """A ghost hides the address that its own would be written over, and crowded ghosts go without words."""
    show = rig(("A", 5, 1, 10), ("B", 5, 1, 40))
    drawing = draw_fence(show, 1, (), ghosts=[("011", Run(1, 11, 2)), ("013", Run(1, 13, 2)), ("100", Run(1, 100, 9))])
    assert [ghost.label.words if ghost.label else "" for ghost in drawing.ghosts] == ["011", "", "100"]
    assert [run.address is None for run in drawing.runs] == [True, False]


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
    assert PICKETS * 8 == 512
