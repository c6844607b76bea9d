"""Choosing modes: what is wanted, what is recommended, and the best combination against trying
everything."""

from __future__ import annotations

from itertools import pairwise, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.packing import pack
from fence.core.edits import add_fixtures
from fence.core.model.desk import Desk
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.needs import FEATURES, ModeSchool, Need, Scope, features_of
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show, Universe
from fence.core.modes.advice import offers_of, recommend, wanted_of
from fence.core.modes.combine import Goal, combine
from fence.library import shipped_profiles
from tests.examples import examples

WASH = next(profile for profile in shipped_profiles() if profile.id == "tansy-pond-wash")
HEAD = next(profile for profile in shipped_profiles() if profile.id == "teasel-sway")


def washes(*needs: Need, desk: Desk | None = None, profile: Profile = WASH) -> Show:
    """Three fixtures of a type at two positions, the last two sharing."""
    mode = profile.modes[0].name
    return Show(
        "Needs",
        (
            Fixture(1, "One", profile.id, mode, position="Rill"),
            Fixture(2, "Two", profile.id, mode, position="Gate", share="pair"),
            Fixture(3, "Three", profile.id, mode, position="Gate", share="pair"),
        ),
        (profile,),
        desk=desk or Desk(),
        needs=needs,
        next_id=4,
    )


def test_needs_add_up_and_the_nearest_school_decides() -> None:
    """Features of all scopes are asked together; a fixture's own school stands before its
    position's."""
    show = washes(
        Need(features=("dimmer",)),
        Need(Scope.POSITION, "Rill", ("white",), ModeSchool.FULL),
        Need(Scope.FIXTURE, "1", school=ModeSchool.LEAN),
        Need(Scope.GROUP, "pair", ("amber",)),
    )
    assert wanted_of(show, show.fixture(1)).features == ("dimmer", "white")
    assert wanted_of(show, show.fixture(1)).school is ModeSchool.LEAN
    assert wanted_of(show, show.fixture(2)).features == ("dimmer", "amber")


@pytest.mark.parametrize(
    ("needs", "mode"),
    [
        ((), "3 channel"),
        ((Need(features=("dimmer", "white")),), "5 channel"),
        ((Need(features=("white",)),), "4 channel"),
        ((Need(features=("16-bit dimmer",)),), "10 channel"),
        ((Need(features=("white",), school=ModeSchool.FULL),), "10 channel"),
        ((Need(features=("dimmer", "no own programs"), school=ModeSchool.FULL),), "5 channel"),
    ],
)
def test_recommended(needs: tuple[Need, ...], mode: str) -> None:
    """Lean takes the smallest mode with all that is asked, full the largest."""
    show = washes(*needs)
    assert recommend(show, show.fixture(1)).mode == mode


def test_what_no_mode_has_is_said() -> None:
    """A feature that the fixture lacks in every mode is named, and the others still decide."""
    show = washes(Need(features=("dimmer", "pan")))
    found = recommend(show, show.fixture(1))
    assert found.mode == "5 channel"
    assert "No usable mode has pan as well." in found.reasons


def test_a_desk_leaves_out_what_it_cannot_use() -> None:
    """Modes larger than a page or unlike the fixed layout are not offered; where none is left that
    is said."""
    paged = washes(Need(school=ModeSchool.FULL), desk=Desk("Small", page=6))
    assert recommend(paged, paged.fixture(1)).mode == "5 channel"
    fixed = washes(desk=Desk("Fixed", layout=(Function.PAN, Function.TILT)))
    found = recommend(fixed, fixed.fixture(1))
    assert found.mode is None
    assert found.reasons == ("No mode of Tansy Pond Wash can be used on Fixed.",)


def test_features_of_a_moving_head() -> None:
    """Fine movement, cells and own programs are told from the chart."""
    small, large = (features_of(mode) for mode in HEAD.modes)
    assert {"16-bit movement", "program/macro"} <= small
    assert "cells apart" not in small
    assert "cells apart" in large
    assert "no own programs" not in large


def test_an_unknown_feature_is_refused() -> None:
    """A need for something that is no feature says what is accepted."""
    with pytest.raises(EditError, match="Accepted: dimmer"):
        Need(features=("sparkle",))


# ---- combinations against trying everything


def chart(name: str, sizes: tuple[int, ...]) -> Profile:
    """A type with a mode of each size; larger modes have more features."""
    functions = list(Function)

    def channels(size: int, rank: int) -> tuple[Channel, ...]:
        return tuple(Channel(functions[min(place, rank + 1)]) for place in range(size))

    return Profile(
        name,
        "Spade",
        name,
        tuple(Mode(f"m{n}", (Part(n, channels(n, rank)),)) for rank, n in enumerate(sizes)),
    )


SIZE = st.one_of(
    st.integers(1, 60), st.integers(100, 300), st.sampled_from([170, 171, 256, 257, 512])
)
TYPES = st.lists(
    st.lists(SIZE, min_size=1, max_size=3, unique=True).map(sorted), min_size=1, max_size=3
)
CHOSEN = st.lists(st.integers(0, 2), min_size=1, max_size=5)
RESERVED = st.sets(st.sampled_from([1, 100, 256, 257, 512]), max_size=2)


def small_show(sizes: list[list[int]], chosen: list[int], reserved: set[int]) -> Show:
    """A show of a few fixtures, of sizes that make the packing matter."""
    types = [chart(f"t{n}", tuple(modes)) for n, modes in enumerate(sizes)]
    picked = [types[n % len(types)] for n in chosen]
    fixtures = tuple(Fixture(n, f"F{n}", t.id, t.modes[0].name) for n, t in enumerate(picked, 1))
    return Show(
        "Small", fixtures, tuple(types), (Universe(1, reserved=tuple(sorted(reserved))),), next_id=9
    )


def fits_somehow(lengths: tuple[int, ...], bins: list[int]) -> bool:
    """Whether the lengths can be put into the bins, by trying every bin for each."""
    if not lengths:
        return True
    first, rest = lengths[0], lengths[1:]
    return any(
        fits_somehow(rest, [*bins[:at], room - first, *bins[at + 1 :]])
        for at, room in enumerate(bins)
        if room >= first and room not in bins[:at]
    )


def empty_bins(show: Show, universes: int) -> list[int]:
    """The gaps of empty universes, read slot by slot."""
    bins = []
    for number in range(1, universes + 1):
        kept = show.universe_by_number[number].reserved if number in show.universe_by_number else ()
        edges = [0, *kept, 513]
        bins += [high - low - 1 for low, high in pairwise(edges) if high - low > 1]
    return bins


@examples(100)
@given(TYPES, CHOSEN, RESERVED, st.integers(1, 4))
def test_combination_within_universes(
    sizes: list[list[int]], chosen: list[int], reserved: set[int], universes: int
) -> None:
    """The best worth that fits equals that of trying every combination, and is called proven only
    if it does."""
    show = small_show(sizes, chosen, reserved)
    offers = [offers_of(show, fixture) for fixture in show.fixtures]
    bins = empty_bins(show, universes)
    worths = [
        sum(offer.worth for offer in way)
        for way in product(*offers)
        if fits_somehow(tuple(sorted((offer.mode.footprint for offer in way), reverse=True)), bins)
    ]
    found = combine(show, Goal.WITHIN, within=universes)
    assert found.fits == bool(worths)
    if worths:
        assert found.worth == max(worths)
        assert found.proven
        modes = [show.profile_by_id[f.profile].mode(found.modes[f.id]) for f in show.fixtures]
        assert fits_somehow(
            tuple(sorted((mode.footprint for mode in modes if mode), reverse=True)), bins
        )


@examples(100)
@given(TYPES, CHOSEN, RESERVED)
def test_combination_of_fewest_universes(
    sizes: list[list[int]], chosen: list[int], reserved: set[int]
) -> None:
    """With the smallest modes the number of universes is the least that any packing takes."""
    show = small_show(sizes, chosen, reserved)
    found = combine(show, Goal.FEWEST)
    smallest = tuple(
        sorted((offers_of(show, f)[0].mode.footprint for f in show.fixtures), reverse=True)
    )
    assert found.proven
    assert fits_somehow(smallest, empty_bins(show, found.universes))
    assert found.universes == 1 or not fits_somehow(smallest, empty_bins(show, found.universes - 1))


def test_everything_full() -> None:
    """Everything full takes each fixture's largest mode; sharers count their channels once."""
    found = combine(washes(), Goal.FULL)
    assert set(found.modes.values()) == {"10 channel"}
    assert (found.full, found.channels, found.universes) == (3, 20, 1)


def test_too_little_room_even_when_lean() -> None:
    """Where not even the smallest modes fit, that is said with the universes that they take."""
    show = washes(profile=chart("wide", (400, 500)))
    found = combine(show, Goal.WITHIN, within=1)
    assert not found.fits
    assert found.universes == 2


def test_how_many_universes_must_be_said() -> None:
    """A combination within no universes is refused."""
    with pytest.raises(EditError, match="Use 1 to"):
        combine(washes(), Goal.WITHIN, within=0)


def test_a_paged_desk_counts_pages() -> None:
    """On a desk with pages of 16 a universe holds 32 of anything."""
    show = Show("Pages", profiles=(WASH,), desk=Desk("Paged", page=16))
    from fence.core.edits import AddRun

    show = add_fixtures(show, AddRun(WASH, "3 channel", 33, "P 1"))
    assert combine(show, Goal.FEWEST).universes == 2


@given(
    st.lists(st.integers(1, 12), max_size=7), st.lists(st.integers(1, 16), min_size=1, max_size=4)
)
def test_packing(lengths: list[int], bins: list[int]) -> None:
    """A packing holds what it says; that there is none is certain and true."""
    found = pack(lengths, bins)
    assert (found.bins is not None) == fits_somehow(tuple(sorted(lengths, reverse=True)), bins)
    assert found.certain
    if found.bins is not None:
        for at, room in enumerate(bins):
            assert (
                sum(n for n, chosen in zip(lengths, found.bins, strict=True) if chosen == at)
                <= room
            )


def test_every_feature_is_had_by_some_chart() -> None:
    """No feature of the list is dead: some mode of a made-up chart has it."""
    all_functions = tuple(Channel(function) for function in Function)
    mode = Mode("all", (Part(len(all_functions), all_functions),))
    missing = set(FEATURES) - features_of(mode)
    assert missing == {"16-bit movement", "16-bit dimmer", "cells apart", "no own programs"}
