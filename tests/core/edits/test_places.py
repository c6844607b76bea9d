"""Places in metres: typed, set out evenly, and cable that is reckoned from them."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fence.core import edits
from fence.core.lines.measure import Tape, cable_runs_of
from fence.core.model.errors import EditError
from fence.core.model.ground import Distance, Ground
from fence.core.model.scene import FARTHEST, InScene, Place, read_place
from fence.demo.glasshouse import uncabled_show

PALMS = [1, 2, 3, 4]


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        ("-4 / 2.5 / 6", Place(-4, 2.5, 6)),
        ("1,5; 2", Place(1.5, 2)),
        ("1.5 2 3 m", Place(1.5, 2, 3)),
        ("0/0/0", Place(0, 0, 0)),
        ("", None),
        (" m", None),
    ],
)
def test_places_as_typed(typed: str, place: Place | None) -> None:
    """Two or three numbers, with a point or a comma."""
    assert read_place(typed) == place


@pytest.mark.parametrize("typed", ["4", "1 / 2 / 3 / 4", "left", "1 / x", "nan / 1", "10000.5 / 0"])
def test_what_is_no_place(typed: str) -> None:
    """It says what is accepted."""
    with pytest.raises(EditError):
        read_place(typed)
    assert read_place(f"{FARTHEST:g} / 0") == Place(FARTHEST, 0)


def test_set_out_evenly() -> None:
    """The first and the last where they are said to be, the others as far from each other; a single
    one in the middle."""
    show = edits.set_out(uncabled_show(), PALMS, Place(-6, 1, 4), Place(6, 2.5, 4))
    places = [show.fixture(one).at for one in PALMS]
    assert places == [Place(-6, 1, 4), Place(-2, 1.5, 4), Place(2, 2, 4), Place(6, 2.5, 4)]
    one = edits.set_out(show, PALMS[:1], Place(0, 0), Place(2, 4, 6))
    assert one.fixture(1).at == Place(1, 2, 3)
    with pytest.raises(EditError, match="No fixture hangs there"):
        edits.set_out(show, [], Place(0, 0), Place(1, 1))
    assert edits.hang_at(show, 1, None).fixture(1).at is None


def test_cable_is_reckoned_from_places() -> None:
    """Between two at one position by their places, along level and upright, with slack; a distance
    that somebody gave goes before it between positions."""
    show = edits.chain(edits.add_line(uncabled_show(), "A", 1), 1, [*PALMS, 11])
    assert list(cable_runs_of(Tape(show), show.line(1)).values())[1:] == [None] * 4
    show = edits.set_out(show, PALMS, Place(0, 0, 5), Place(9, 0, 5))
    show = edits.hang_at(show, 11, Place(9, 10, 7))
    runs = list(cable_runs_of(Tape(show), show.line(1)).values())
    assert runs[1:] == [4, 4, 4, 14]
    near = show.fixture(11).position
    given = Ground((Distance(show.fixture(1).position, near, 30),))
    told = replace(show, ground=given)
    assert list(cable_runs_of(Tape(told), told.line(1)).values())[-1] == 33


def test_what_a_scene_may_say() -> None:
    """An identity is one, and a rotation has nine numbers."""
    with pytest.raises(EditError, match="is not a UUID"):
        InScene(uuid="7")
    with pytest.raises(EditError, match="nine numbers"):
        InScene(turn=(1.0,))
    fixture = uncabled_show().fixtures[0]
    assert fixture.uuid_in("a") == fixture.uuid_in("a") != fixture.uuid_in("b")
