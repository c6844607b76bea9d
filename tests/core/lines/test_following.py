"""Plans of the cable and findings about it, followed through edits, beside a show that is new."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from fence.core.checks import check
from fence.core.lines.plan import CablePlan, Wanted, plan_cable
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.ground import DESK, Distance, Ground
from fence.core.model.line import Device, Line, Stop
from fence.core.model.looks import Looks
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part
from fence.core.model.scene import Place
from fence.core.model.show import Position, Show
from tests.core.lines.test_plan import AIRY, HEAVY, LAMP
from tests.examples import examples

TWO = replace(LAMP, id="two", modes=(Mode("m", (Part(1), Part(1))),), passes_unpowered=False)
PLACES = ("", "Bridge", "Quay")
WAYS = (Wanted(anew=True), Wanted(), Wanted(loads=4, outputs=2, anew=True))


def rig() -> Show:
    """Twelve fixtures of four types in three universes, with something to say of most cables."""
    types = (LAMP, LAMP, TWO, HEAVY, AIRY, LAMP)
    fixtures = tuple(
        Fixture(
            number,
            f"Fern {number}",
            types[number % 6].id,
            "m",
            position=PLACES[number % 3],
            patch=(Patch(1 + number % 3, number),) + (Patch(3, 50 + number),) * (number % 6 == 2),
        )
        for number in range(1, 13)
    )
    places = tuple(Position(name, spacing=2) for name in PLACES if name)
    show = Show("S", fixtures, (LAMP, HEAVY, AIRY, TWO), next_id=13, positions=places)
    return replace(show, ground=Ground((Distance(DESK, "Bridge", 120),)))


def of_a_fixture(show: Show, draw: st.DrawFn) -> Show:
    fixtures = list(show.fixtures)
    at = draw(st.integers(0, len(fixtures) - 1))
    change = draw(
        st.sampled_from(
            [
                {"label": "Moved"},
                {"position": "Quay"},
                {"position": ""},
                {"profile": "heavy"},
                {"profile": "airy"},
                {"profile": "gone"},
                {"patch": (Patch(1, 400),)},
                {"patch": (Patch(2, None),)},
                {"patch": (Patch(),)},
                {"at": Place(3, 150, 1)},
                {"note": "seen"},
            ]
        )
    )
    fixtures[at] = replace(fixtures[at], **change)
    return replace(show, fixtures=tuple(fixtures))


def of_their_order(show: Show, draw: st.DrawFn) -> Show:
    fixtures = list(show.fixtures)
    taken = fixtures.pop(draw(st.integers(0, len(fixtures) - 1)))
    if draw(st.booleans()) or not fixtures:
        fixtures.insert(draw(st.integers(0, len(fixtures))), taken)
    return replace(show, fixtures=tuple(fixtures))


def of_a_type(show: Show, draw: st.DrawFn) -> Show:
    change = draw(
        st.sampled_from(
            [
                {"unit_load": 5},
                {"connectors_in": "3-pin"},
                {"connectors_out": ""},
                {"connectors_in": "", "wireless": True},
                {"passes_unpowered": False},
                {"rdm": False},
            ]
        )
    )
    at = draw(st.integers(0, len(show.profiles) - 1))
    profiles = [replace(p, **change) if i == at else p for i, p in enumerate(show.profiles)]
    return replace(show, profiles=tuple(profiles))


def of_the_place(show: Show, draw: st.DrawFn) -> Show:
    if draw(st.booleans()):
        spacing = draw(st.sampled_from([None, 2.0, 120.0]))
        return replace(show, positions=tuple(Position(n, spacing=spacing) for n in PLACES if n))
    far = draw(st.sampled_from([10.0, 150.0, 400.0]))
    ways = (Distance(DESK, "Bridge", far), Distance("Bridge", "Quay", 7.0))
    sockets = draw(st.sampled_from([None, 2, 4]))
    return replace(show, ground=Ground(ways, slack=draw(st.integers(0, 20)), sockets=sockets))


def of_the_lines(show: Show, draw: st.DrawFn) -> Show:
    if not show.lines or draw(st.booleans()):
        planned = plan(show, draw(st.sampled_from(WAYS)))
        return planned.show if isinstance(planned, CablePlan) else show
    lines = list(show.lines)
    at = draw(st.integers(0, len(lines) - 1))
    what = draw(st.sampled_from(["name", "universe", "away", "short", "stop", "send", "same"]))
    if what == "away":
        del lines[at]
    elif what == "short":
        lines[at] = replace(lines[at], stops=lines[at].stops[:-2])
    elif what in ("stop", "send"):
        lines[at] = with_a_stop(lines[at], draw, what)
    elif what == "same":  # hangs a second time
        lines.append(replace(lines[at], id=max(line.id for line in lines) + 1))
    else:
        change = {"name": "Other"} if what == "name" else {"universe": 3}
        lines[at] = replace(lines[at], **change)
    return show.with_lines(tuple(lines))


def with_a_stop(line: Line, draw: st.DrawFn, what: str) -> Line:
    if what == "send":
        number = max((stop.id for stop in line.stops), default=0) + 1
        sender = Stop(number, device=Device.TRANSMITTER, link="A", label="Air")
        return replace(line, stops=(*line.stops, sender))
    if not line.stops:
        return line
    at = draw(st.integers(0, len(line.stops) - 1))
    change = draw(st.sampled_from([{"length": 320.0}, {"length": None}, {"open_end": "why"}]))
    stops = [replace(s, **change) if i == at else s for i, s in enumerate(line.stops)]
    return replace(line, stops=tuple(stops))


EDITS: tuple[Callable[[Show, st.DrawFn], Show], ...] = (
    of_a_fixture,
    of_a_fixture,
    of_their_order,
    of_a_type,
    of_the_place,
    of_the_lines,
)


@st.composite
def edited(draw: st.DrawFn, show: Show) -> Show:
    """The show after one edit; one without fixtures gets them back."""
    if not show.fixtures:
        return rig()
    return draw(st.sampled_from(EDITS))(show, draw)


def plan(show: Show, wanted: Wanted) -> CablePlan | str:
    """A plan, or why there is none."""
    try:
        return plan_cable(show, wanted)
    except EditError as error:
        return str(error)


def unknown(show: Show) -> Show:
    """The same show of other values that are equal, so that nothing is known of any."""
    lines = tuple(replace(one, stops=tuple(map(replace, one.stops))) for one in show.lines)
    return replace(
        show,
        fixtures=tuple(map(replace, show.fixtures)),
        profiles=tuple(map(replace, show.profiles)),
        lines=lines,
    )


@examples(150)
@given(st.data())
def test_what_is_followed_is_what_would_be_found(data: st.DataObject) -> None:
    """Edit after edit, and back: what is planned and what the rules say is as if the show had been
    opened anew."""
    shows = [rig(), plan_cable(rig(), WAYS[0]).show]
    for _ in range(data.draw(st.integers(2, 6))):
        shows.append(data.draw(edited(data.draw(st.sampled_from(shows)))))
        wanted = data.draw(st.sampled_from(WAYS))
        for each in (shows[-1], data.draw(st.sampled_from(shows))):
            anew = unknown(each)
            assert list(check(each)) == list(check(anew))
            planned, afresh = plan(each, wanted), plan(anew, wanted)
            if isinstance(planned, CablePlan) and isinstance(afresh, CablePlan):
                assert list(check(planned.show)) == list(check(afresh.show))
                assert replace(planned, show=afresh.show) == afresh
                assert planned.show.lines == afresh.show.lines
            else:
                assert planned == afresh


def test_only_what_changed_is_planned_again() -> None:
    """A change in one universe leaves the lines of the others the very same."""
    show = rig()
    before = plan_cable(show, WAYS[0]).show.lines
    fixtures = (replace(show.fixtures[0], label="Other"), *show.fixtures[1:])
    after = plan_cable(replace(show, fixtures=fixtures), WAYS[0]).show.lines
    assert before == after, "the label of a fixture stands in no line"
    assert [one is other for one, other in zip(before, after, strict=True)] == [True, False, True]


def test_lines_that_are_there_count_the_new_ones() -> None:
    """The same plan, numbered behind whatever lines there are."""
    show = rig()
    for there in ((), (Line(7, "Spare"),), ()):
        planned = plan_cable(show.with_lines(there), WAYS[1])
        first = 1 + max((line.id for line in there), default=0)
        assert planned.lines == tuple(range(first, first + 3))
        assert [line.id for line in planned.show.lines[len(there) :]] == list(planned.lines)


def test_the_last_four_looks_are_known() -> None:
    """Parts are the same where they are made of the very same values and have equal keys."""
    looks, made = Looks[int](), []

    def work() -> int:
        made.append(len(made))
        return made[-1]

    parts = [object() for _ in range(6)]
    for part in parts[:4]:
        looks.begin().at("key", (part,), work)
    assert looks.begin().at("key", (parts[0],), work) == 0
    look = looks.begin()
    assert look.at("key", (parts[3],), work) == 3
    assert look.at("other", (parts[3],), work) == 4
    assert look.at("key", (parts[3], parts[3]), work) == 5
    for _ in range(5):
        looks.begin()
    assert looks.begin().at("key", (parts[3],), work) == 6


def test_a_universe_is_enough_to_wait_for_a_line() -> None:
    """Whoever has no address yet, or only one of two, is planned as well, in the order of the rig
    list; who takes no channels is not."""
    show = rig()
    fixtures = list(show.fixtures)
    fixtures[0] = replace(fixtures[0], patch=(Patch(2, None),))
    fixtures[1] = replace(fixtures[1], patch=(Patch(3, 52), Patch(2, None)))
    fixtures[2] = replace(fixtures[2], patch=(Patch(),))
    fixtures[3] = replace(fixtures[3], mode="gone")
    planned = plan_cable(replace(show, fixtures=tuple(fixtures), positions=()), WAYS[0]).show
    hung = {
        line.universe: sorted(stop.fixture for stop in line.stops if stop.fixture is not None)
        for line in planned.lines
    }
    assert hung == {1: [6, 9, 12], 2: [1, 2, 7, 10], 3: [2, 5, 8, 11]}
