"""Answers that were wrong once: each is one small rig."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from fence.cli import main
from fence.core import edits
from fence.core.addressing.mends import apply_mend, mends_for
from fence.core.addressing.moves import split
from fence.core.addressing.room import room_for_more
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.addressing.sheet import slot_sheet
from fence.core.addressing.trial import Trial, try_out
from fence.core.charts.reading import read_chart_text
from fence.core.charts.remarks import check_chart
from fence.core.charts.writing import write_chart_text
from fence.core.checks import Severity, check, findings_of
from fence.core.model.address import Address, parse_slots
from fence.core.model.desk import Desk, TellTale
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import (
    Byte,
    Channel,
    Function,
    Mode,
    Part,
    Profile,
    Range,
    Setter,
    SetterKind,
)
from fence.core.model.show import Position, Show, Universe
from fence.core.model.standing import as_planned
from fence.core.modes.beside import compare_modes
from fence.core.modes.combine import Goal, combine, universes_needed
from fence.core.simulation.sight import sight_of
from fence.formats.show_json import write_show_json
from tests.rigs import bare, rig


def parted(*widths: int, **fields: object) -> Profile:
    """A profile with one mode of several parts."""
    return Profile("two", "Trowel", "Two", (Mode("m", tuple(map(Part, widths))),), **fields)  # type: ignore[arg-type]


def fixture(fixture_id: int, *slots: int | None, universe: int = 1, **fields: object) -> Fixture:
    patch = tuple(Patch(universe, slot) if slot else Patch() for slot in slots)
    values: dict[str, object] = {"profile": "two", "mode": "m", "patch": patch, **fields}
    return Fixture(fixture_id, f"F{fixture_id}", **values)  # type: ignore[arg-type]


def show_of(profile: Profile, *fixtures: Fixture, **fields: object) -> Show:
    made = Show("S", fixtures, (profile,), next_id=len(fixtures) + 1, **fields)  # type: ignore[arg-type]
    return edits.with_places(made)


def rules(show: Show) -> list[tuple[str, tuple[int, ...]]]:
    return [(finding.rule, finding.fixtures) for finding in check(show)]


# ---- about stops


def test_a_part_without_an_address_hides_nothing_behind_it() -> None:
    """The parts after it are still seen past the end, on reserved slots and beyond the setter."""
    show = show_of(
        parted(4, 9, setter=Setter(SetterKind.ROTARY, highest=99)), fixture(1, None, 510)
    )
    assert sorted(rules(show)) == [("no-address", (1,)), ("past-end", (1,)), ("setter-range", (1,))]


def test_sharing_hides_no_clash_between_own_parts() -> None:
    """Two parts of one fixture on the same slots are a stop, told once for all who share."""
    show = show_of(parted(4, 4), fixture(1, 10, 12, share="g"), fixture(2, 10, 12, share="g"))
    assert sorted(rules(show)) == [("overlap", (1, 2))]
    assert "own parts meet" in findings_of(show)[0].message


def test_a_stop_is_never_lost_among_cautions(tmp_path: Path) -> None:
    """With more cautions than are kept, one bad share still makes the command say 1, with and
    without JSON."""
    profile = bare(5)
    many = [Fixture(n, f"F{n}", profile.id, "m") for n in range(1, 5002)]
    pair = [
        Fixture(n, f"S{n}", profile.id, "m", patch=(Patch(1, n % 9 * 20 + 1),), share="g")
        for n in (6001, 6002)
    ]
    show = Show("S", (*many, *pair), (profile,), next_id=7000)
    path = tmp_path / "rig.json"
    path.write_text(write_show_json(show))
    for options in ([], ["--json"]):
        done = CliRunner().invoke(main, ["check", str(path), *options])
        assert done.exit_code == 1
    assert findings_of(show)[0].rule == "share-mismatch"
    assert len(findings_of(show)) == 5000


def test_a_trial_that_makes_stops_does_not_fit() -> None:
    """Pinned fixtures that then overlap, or lie beyond a smaller desk, are told, though all have a
    place."""
    grow = Profile("p", "T", "P", (Mode("small", (Part(4),)), Mode("large", (Part(8),))))
    pinned = [
        Fixture(n, f"F{n}", "p", "small", patch=(Patch(1, 1 + 4 * (n - 1)),), pinned=True)
        for n in (1, 2)
    ]
    result = try_out(show_of(grow, *pinned), Trial(modes={1: "large", 2: "large"}))
    assert (result.fits, len(result.stops)) == (False, 1)
    far = rig(("A", 5, 3, 1))
    far = replace(far, fixtures=(replace(far.fixtures[0], pinned=True),))
    beyond = try_out(far, Trial(universes=2))
    assert not beyond.fits
    assert "beyond" in beyond.stops[0]


def test_fewest_universes_on_a_paged_desk() -> None:
    """A mode in two parts takes two pages although it has fewer channels: the other one packs
    better."""
    modes = (Mode("two parts", (Part(2), Part(2))), Mode("one part", (Part(9),)))
    profile = Profile("p", "T", "P", modes)
    fixtures = [
        Fixture(n, f"F{n}", "p", "two parts", patch=(Patch(), Patch())) for n in range(1, 33)
    ]
    result = combine(show_of(profile, *fixtures, desk=Desk(page=16)), Goal.FEWEST)
    assert (result.universes, result.proven) == (1, True)
    assert set(result.modes.values()) == {"one part"}


def test_the_sheet_tells_a_group_from_a_fixture() -> None:
    """A group called "2" that lies over fixture 2 is a clash."""
    show = show_of(
        bare(5), *(fixture(n, 10, profile="p5", share=share) for n, share in ((1, "2"), (2, "")))
    )
    assert slot_sheet(show, 1)[9].clash


# ---- wrong edits


def test_splitting_writes_the_part_that_has_channels() -> None:
    """Where the first part has none, the second one moves and the first stays."""
    show = show_of(parted(0, 5), *(fixture(n, None, 10, share="g") for n in (1, 2)))
    after = split(show, [1, 2])
    assert [f.patch for f in after.fixtures] == [(Patch(), Patch(1, 10)), (Patch(), Patch(1, 15))]


def test_who_is_pinned_keeps_the_address_of_a_group() -> None:
    """The pinned member stays and the first one leaves; where others go on sharing, the pin is
    told."""
    show = edits.share(rig(("A", 5, 1, 10), ("B", 5, 1, 10), ("C", 5, 1, 10)), [1, 2, 3])
    pinned = edits.pin(show, [2])
    assert split(pinned, [1, 2, 3]).fixture(2).start == 10
    assert len({f.start for f in split(pinned, [1, 2, 3]).fixtures}) == 3
    with pytest.raises(EditError, match="B is pinned"):
        split(pinned, [2])


def test_an_imported_rig_keeps_its_groups_and_hard_places() -> None:
    """Groups of like names stay apart, those of the file with each other too; what is hard to reach
    stays so."""
    here = edits.share(rig(("A", 5, 1, 1), ("B", 5, 1, 1)), [1, 2], "g")
    other = rig(*((f"F{n}", 5, 2, n) for n in range(1, 5)))
    other = edits.share(
        edits.share(edits.renumber(other, [1, 2, 3, 4], 11), [1, 2], "g"), [3, 4], "g 2"
    )
    other = edits.set_hard(edits.set_position(other, [1], "Roof"), "Roof", hard=True)
    after = edits.take_over(here, other)
    groups = [f.share for f in after.fixtures]
    assert groups[:2] == ["g", "g"]
    assert groups[2] == groups[3] != groups[4] == groups[5]
    assert len(set(groups)) == 3
    assert after.hard_positions == {"Roof"}
    known = edits.set_position(here, [1], "Roof")
    assert edits.take_over(known, other).hard_positions == {"Roof"}


def test_a_second_part_goes_on_in_the_next_universe() -> None:
    """Adding from an address near the end never puts a further part past it."""
    run = edits.AddRun(parted(4, 9), "m", 1, "F", start=Address(1, 505))
    added = edits.add_fixtures(Show("S"), run).fixtures[0]
    assert added.patch == (Patch(1, 505), Patch(2, 1))


def test_a_layout_leaves_what_it_cannot_measure() -> None:
    """A fixture whose mode is missing keeps its address and is named as without a place."""
    show = show_of(parted(4), fixture(1, 77, mode="gone"), fixture(2, None))
    result = lay_out(show, Layout(School.BACK_TO_BACK))
    assert (result.show.fixture(1), result.unplaced) == (show.fixture(1), (1,))


# ---- mends


def mend_texts(show: Show, rule: str) -> list[str]:
    return [
        mend.text
        for finding in check(show)
        if finding.rule == rule
        for mend in mends_for(show, finding)
    ]


def test_a_fresh_universe_keeps_the_tell_tale_slot() -> None:
    """Where only a new universe has room, the place there is not on the slot that tells its
    number."""
    show = replace(rig(("A", 511, 1, 2), ("B", 511, 1, 2)), tell_tale=TellTale(1))
    assert "Move B to U2 002" in mend_texts(show, "overlap")


def test_no_mend_leads_where_the_desk_does_not_send() -> None:
    """A fixture that waits in a universe beyond the desk is offered one that the desk sends."""
    show = replace(rig(("A", 5, 3, None), ("B", 5, 1, 1)), desk=Desk(universes=2))
    assert mend_texts(show, "no-address") == ["Put A at U1 006"]


def test_a_sharer_without_an_address_joins_the_others() -> None:
    """It is put where its group is; the others stay, and so are not in the sentence."""
    show = rig(("A", 5, 1, 30), ("B", 5, None, None))
    show = replace(show, fixtures=tuple(replace(f, share="g") for f in show.fixtures))
    finding = next(f for f in check(show) if f.rule == "no-address")
    (mend,) = mends_for(show, finding)
    assert mend.text == "Move B to U1 030, where A is"
    assert [f.start for f in apply_mend(show, mend).fixtures] == [30, 30]
    assert {f.share for f in apply_mend(show, mend).fixtures} == {"g"}


def test_joining_minds_only_the_one_who_joins() -> None:
    """A third member that differs does not make the mend fail; a fixture is never told to share
    with itself."""
    profile = Profile("two", "T", "T", (Mode("m", (Part(5),)), Mode("n", (Part(7),))))
    show = show_of(
        profile,
        fixture(1, 10, share="g"),
        fixture(2, 40, share="g"),
        fixture(3, 70, share="g", mode="n"),
    )
    finding = next(f for f in check(show) if f.fixtures == (1, 2))
    (mend,) = mends_for(show, finding)
    after = apply_mend(show, mend)
    assert [f.start for f in after.fixtures] == [10, 10, 70]
    assert [f.share for f in after.fixtures] == ["g"] * 3
    alone = show_of(parted(4, 4), fixture(1, 10, 12))
    assert mend_texts(alone, "overlap")
    assert not [text for text in mend_texts(alone, "overlap") if "shared" in text]


# ---- slow


def test_thousands_at_one_address_are_counted_as_far_as_it_helps() -> None:
    """2,000 fixtures on one address are two million clashes: modes beside each other and trials
    look at the first."""
    profile = Profile("p", "T", "P", (Mode("a", (Part(4),)), Mode("b", (Part(8),))))
    fixtures = [Fixture(n, f"F{n}", "p", "a", patch=(Patch(1, 1),)) for n in range(1, 2001)]
    show = show_of(profile, *fixtures)
    assert [column.stops for column in compare_modes(show, profile).columns] == [5000, 5000]
    assert try_out(show, Trial(add=edits.AddRun(profile, "b", 60, "N"))).without == ()


# ---- seen light and charts

CELLS = Mode("cells", (Part(2, tuple(Channel(Function.DIMMER, cell=cell) for cell in (1, 2))),))


def test_dimmers_of_cells_are_dimmers() -> None:
    """A blinder at zero is dark, and each cell is as bright as its own dimmer says."""
    assert sight_of(CELLS, {}).intensity == 0
    assert dict(sight_of(CELLS, {1: 255, 2: 51}).light) == {("lamp", 1): 1.0, ("lamp", 2): 0.2}
    colours = (*CELLS.parts[0].channels, *(Channel(Function.RED, cell=cell) for cell in (1, 2)))
    both = Mode("both", (Part(4, colours),))
    assert dict(sight_of(both, {1: 255, 3: 255, 4: 255}).light) == {
        ("red", 1): 1.0,
        ("red", 2): 0.0,
    }


def test_nothing_flashes_in_the_dark() -> None:
    """With all colours at zero there is no light to flash, whatever the shutter does."""
    strobe = Channel(Function.SHUTTER, ranges=(Range(0, 9, "open"), Range(10, 255, "strobe")))
    mode = Mode("m", (Part(2, (Channel(Function.RED), strobe)),))
    assert sight_of(mode, {2: 200}).flashing == ""
    assert sight_of(mode, {1: 1, 2: 200}).flashing == "strobe"


def test_nested_ranges_are_told_right() -> None:
    """A range inside another one hides neither the next overlap nor makes a gap where there is
    none."""
    ranges = (Range(0, 200, "a"), Range(10, 20, "b"), Range(100, 255, "c"))
    mode = Mode("m", (Part(1, (Channel(Function.GOBO, ranges=ranges),)),))
    told = [
        remark.text for remark in check_chart(Profile("p", "T", "P", (mode,))) if remark.channel
    ]
    assert told == ["Levels 10 to 20 have two meanings.", "Levels 100 to 200 have two meanings."]


WORDS = st.one_of(
    st.text("abcdefgh 0123456789-%,;:|()[]{}\"'°KHz/+#.", max_size=14),
    st.sampled_from(
        [
            "0-9 off",
            "Red 2",
            "R1",
            "16 bit",
            "fine",
            "5 channel mode",
            "cell 3",
            "pan fine",
            "1-2",
            "255",
        ]
    ),
)


@given(
    st.lists(
        st.tuples(WORDS, st.sampled_from(list(Function)), WORDS, st.integers(0, 255)),
        min_size=1,
        max_size=5,
    )
)
def test_any_chart_reads_back_from_its_text(rows: list[tuple[str, Function, str, int]]) -> None:
    """Whatever channels and ranges are called, a chart written as text reads back channel for
    channel."""
    channels = tuple(
        Channel(
            function,
            " ".join(name.split()),
            cell=level % 3 or None,
            byte=Byte.WHOLE,
            default=level,
            ranges=(Range(0, level, " ".join(words.split())),) if level < 200 else (),
        )
        for name, function, words, level in rows
    )
    profile = Profile("p", "T", "P", (Mode("mode a", (Part(len(channels), channels),)),))
    text = write_chart_text(profile)
    assert read_chart_text(text).modes[0].channels == channels, text


# ---- small


def test_an_overlap_ends_at_slot_512() -> None:
    """Two runs past the end share slots up to 512, and that both go on is said."""
    overlap = next(
        f for f in check(rig(("A", 20, 1, 500), ("B", 20, 1, 505))) if f.rule == "overlap"
    )
    assert (overlap.first, overlap.last) == (505, 512)
    assert overlap.message.endswith("Both run past the end.")


def test_pages_are_offered_only_where_they_are() -> None:
    """Near the end no page at 513 is named; parts are judged one by one, as the advice does."""
    show = replace(rig(("A", 5, 1, 505)), desk=Desk(page=16))
    told = next(f for f in check(show) if f.rule == "page-grid")
    assert told.message.endswith("here at 497.")
    parts = replace(show_of(parted(12, 12), fixture(1, 1, 17)), desk=Desk(page=16))
    assert not [f for f in check(parts) if f.rule == "page-size"]


def test_what_stands_clear_in_a_paged_universe_needs_one() -> None:
    """26 small fixtures on pages of 20: the last page is cut off and still holds one."""
    show = rig(*((f"F{n}", 5, 1, 1 + 20 * n) for n in range(26)))
    show = replace(show, desk=Desk(page=20))
    assert not [f for f in check(show) if f.severity is Severity.STOP]
    assert universes_needed(show) == 1
    assert universes_needed(edits.add_fixtures(show, edits.AddRun(bare(5), "m", 1, "N"))) == 2
    assert [
        (room.as_it_is, room.with_moves) for room in room_for_more(edits.remove_fixtures(show, [3]))
    ] == [(1, 1)]


def test_a_limit_of_slots_is_not_called_a_universe() -> None:
    """A run above the desk's highest slot is told as slots, and so is why."""
    told = next(
        f
        for f in check(replace(rig(("A", 9, 1, 190)), desk=Desk(highest=192)))
        if f.rule == "universe-limit"
    )
    assert "sends slots 1 to 192" in told.message


@pytest.mark.parametrize(
    "words", ["509 - 512", "509-512", "509 – 512", "512 , 509-511", "509 -512"]
)
def test_lists_of_slots_may_have_blanks(words: str) -> None:
    """However a range is spaced, it is a range."""
    assert parse_slots(words) == (509, 510, 511, 512)


def test_a_first_part_without_channels_hinders_nobody() -> None:
    """Such a fixture can be pinned and marked as set by the parts that it has."""
    show = show_of(parted(0, 5), fixture(1, None, 10))
    assert edits.pin(show, [1]).fixtures[0].pinned
    done = edits.mark_set(show, [1])
    assert as_planned(done, done.fixtures[0])
    with pytest.raises(EditError, match="cannot have been set"):
        edits.mark_set(show_of(parted(5, 5), fixture(1, 10, None)), [1])


def test_json_of_the_contract_names_one_fixture_for_its_own_parts(tmp_path: Path) -> None:
    """A clash of a fixture with itself has one label."""
    path = tmp_path / "rig.json"
    show = show_of(
        parted(4, 4), fixture(1, 10, 12), universes=(Universe(1),), positions=(Position("P"),)
    )
    path.write_text(write_show_json(show))
    told = json.loads(CliRunner().invoke(main, ["check", str(path), "--json"]).stdout)
    assert [finding["fixtures"] for finding in told["findings"]] == [["F1"]]


def test_sharing_is_not_offered_where_a_third_one_stands() -> None:
    """Declaring two as shared would put the second upon a third that is on the first one's slots
    too."""
    show = rig(("A", 3, 1, 1), ("B", 3, 1, 2), ("C", 3, 1, 1))
    finding = next(f for f in check(show) if f.fixtures == (1, 2))
    assert not [mend.text for mend in mends_for(show, finding) if "shared" in mend.text]
