"""Lines as trees: sections, loads, lengths, ends and breaks against a naive reading that walks up
from every stop."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.checks import check
from fence.core.edits.difference import apply_difference, difference
from fence.core.lines.bring import pull_list
from fence.core.lines.line_mends import line_mends, take
from fence.core.lines.rows import rows_of
from fence.core.model.address import Address
from fence.core.model.errors import EditError, FenceError
from fence.core.model.line import Cable, Device, Line, Plug, Source, Stop
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.model.wiring import (
    fixtures_behind,
    length_of,
    load_of,
    needs_adapter,
    plugs_of,
    wiring_of,
    without_power,
    worst_break,
)
from fence.formats.show_json import read_show_json, write_show_json

HEAVY = Profile(
    "heavy",
    "Trowel",
    "H",
    (Mode("m", (Part(2),)),),
    unit_load=4,
    connectors_in="5-pin",
    connectors_out="5-pin",
)
LIGHT = Profile(
    "light", "Trowel", "L", (Mode("m", (Part(2),)),), connectors_in="3-pin", connectors_out="3-pin"
)
COUNT = 40


def rig() -> Show:
    """Forty fixtures of two types on one universe."""
    show = edits.add_fixtures(
        Show("S"), edits.AddRun(HEAVY, "m", COUNT // 2, "H1", None, "Here", 1, Address(1, 1))
    )
    return edits.add_fixtures(
        show, edits.AddRun(LIGHT, "m", COUNT // 2, "L1", None, "There", 1, Address(1, 101))
    )


@st.composite
def trees(draw: st.DrawFn) -> Line:
    """Any tree of stops: branches anywhere, splitters with and without a driver, air, ends of every
    kind."""
    stops: list[Stop] = []
    loose = list(range(1, COUNT + 1))
    for number in range(1, draw(st.integers(0, 14)) + 1):
        before = [stop.id for stop in stops]
        after = draw(st.sampled_from([None, *before[-3:], *before])) if before else None
        device = draw(st.sampled_from([None, None, None, *Device]))
        length = draw(st.sampled_from([None, 0, 4.5, 30, 120]))
        cable = draw(st.sampled_from([Cable.DMX, Cable.DMX, Cable.WIRELESS, Cable.MICROPHONE]))
        fixture = loose.pop(draw(st.integers(0, len(loose) - 1))) if device is None else None
        output = draw(st.sampled_from([None, 1, 2]))
        boosted = draw(st.booleans())
        rdm, link = draw(st.booleans()), draw(st.sampled_from(["", "7", "14"]))
        stops.append(
            Stop(number, after, output, fixture, device, "", 2, boosted, rdm, link, length, cable)
        )
    return Line(1, "Line A", 1, stops=tuple(stops))


def driver_of(line: Line, stop: Stop) -> tuple[int | None, int]:
    """Who drives the cable at a stop, by walking up: the nearest boosted splitter (and its output)
    or receiver."""
    held = {known.id: known for known in line.stops}
    here = stop
    while here.after is not None:
        before = held[here.after]
        if here.cable is Cable.WIRELESS:
            return (before.id, -here.id)
        if before.device is Device.SPLITTER and before.boosted:
            return (before.id, here.output or 0)
        if before.cable is Cable.WIRELESS:
            return (before.id, 0)
        here = before
    return (None, 0)


@given(trees())
def test_sections_are_what_one_driver_feeds(line: Line) -> None:
    """Every stop is in one section; those of one driver are together; loads, lengths and ends
    follow."""
    show = replace(rig(), lines=(line,))
    wiring = wiring_of(line)
    groups: dict[tuple[int | None, int], set[int]] = {}
    for stop in line.stops:
        groups.setdefault(driver_of(line, stop), set()).add(stop.id)
    sections = {
        frozenset(stop.id for stop in section.stops): section for section in wiring.sections
    }
    assert set(sections) == {frozenset(group) for group in groups.values()}
    held = {stop.id: stop for stop in line.stops}
    for group in groups.values():
        section = sections[frozenset(group)]
        wired = [held[number] for number in group if held[number].cable is not Cable.WIRELESS]
        loads = sum(
            show.profile_by_id[show.fixture(s.fixture).profile].unit_load
            for s in wired
            if s.fixture
        )
        loads += sum(1 for s in wired if s.device in (Device.TRANSMITTER, Device.TESTER))
        loads += sum(1 for s in wired if s.device is Device.SPLITTER and s.boosted)
        assert load_of(show, section) == loads
        far = [0.0]
        for number in group:
            here, metres = number, 0.0
            while here in group:
                metres += 0 if held[here].cable is Cable.WIRELESS else held[here].length or 0
                here = held[here].after or 0
            far.append(metres)
        assert length_of(section) == max(far)
        ends = {
            s.id
            for s in wired
            if s.device is not Device.TRANSMITTER
            and not (s.device is Device.SPLITTER and s.boosted)
            and not any(other.after == s.id and other.id in group for other in line.stops)
        }
        assert {stop.id for stop in wiring.ends(section)} == ends


@given(trees())
def test_a_break_takes_what_walks_up_through_it(line: Line) -> None:
    """Behind a cable run is whoever has it on the way to the source; the worst break takes the
    most."""
    show = replace(rig(), lines=(line,))
    held = {stop.id: stop for stop in line.stops}
    behind: dict[int, set[int]] = {stop.id: set() for stop in line.stops}
    for stop in line.stops:
        here: int | None = stop.id
        while here is not None:
            if stop.fixture is not None:
                behind[here].add(stop.fixture)
            here = held[here].after
    assert {number: set(fixtures_behind(show, line, number)) for number in held} == behind
    worst = worst_break(show, line)
    later = [s.id for s in line.stops if s.after is not None] or [s.id for s in line.stops]
    most = max((len(behind[number]) for number in later), default=0)
    assert (len(worst[1]) if worst else 0) == most


@given(trees(), st.integers(1, 5))
def test_every_stop_stands_at_a_place_of_its_own(line: Line, columns: int) -> None:
    """On the picture no two stops share a place, rows are no longer than asked, and each comes
    after its parent."""
    placed = rows_of(line, columns)
    assert {p.stop.id for p in placed} == {stop.id for stop in line.stops}
    places = {p.stop.id: (p.row, p.column) for p in placed}
    assert len(set(places.values())) == len(places)
    assert all(1 <= column <= columns for _, column in places.values())
    for p in placed:
        assert p.stop.after is None or places[p.stop.after] < places[p.stop.id]


@given(trees(), st.data())
def test_edits_keep_a_line_whole(line: Line, data: st.DataObject) -> None:
    """Whatever is done, the line is a tree, no fixture is lost but those taken off, and the log
    leads back."""
    show = replace(rig(), lines=(line,))
    hung = {stop.fixture for stop in line.stops if stop.fixture}
    ids = [stop.id for stop in line.stops] or [1]
    one, other = data.draw(st.sampled_from(ids)), data.draw(st.sampled_from(ids))
    free = next(number for number in range(1, COUNT + 1) if number not in hung)
    steps = {
        "chain": lambda: edits.chain(
            show, 1, [free], after=data.draw(st.sampled_from([None, one]))
        ),
        "insert": lambda: edits.insert(
            show, 1, data.draw(st.sampled_from(list(Device))), before=one
        ),
        "terminate": lambda: edits.terminate(show, 1),
        "off": lambda: edits.take_off(show, 1, [one]),
        "along": lambda: edits.step_along(show, 1, one, data.draw(st.sampled_from([-1, 1]))),
        "branch": lambda: edits.move_branch(
            show, 1, one, data.draw(st.sampled_from([None, other]))
        ),
        "move": lambda: edits.move_stop(show, 1, one, 1, data.draw(st.sampled_from([None, other]))),
    }
    what = data.draw(st.sampled_from(list(steps)))
    with suppress(EditError):
        after = steps[what]()
        now = {stop.fixture for stop in after.line(1).stops if stop.fixture}
        gone = {stop.fixture for stop in line.stops if stop.id == one} if what == "off" else set()
        assert now == (hung - gone) | ({free} if what == "chain" else set())
        found = difference(show, after)
        assert apply_difference(show, found) == after
        assert apply_difference(after, found.reversed()) == show
        if what == "terminate":
            assert not [f for f in check(after) if f.rule == "unterminated"]


@given(trees())
def test_a_mend_ends_its_finding(line: Line) -> None:
    """Each way out that is offered ends what it was offered for."""
    show = replace(rig(), lines=(replace(line, universe=2),))
    for finding in check(show):
        for mend in line_mends(show, finding):
            with suppress(FenceError):
                after = take(show, mend.step)
                if finding.rule not in (
                    "double-terminated",
                    "audio-cable",
                    "line-load",
                    "line-length",
                    "twice-on-line",
                ):
                    assert finding.key not in {left.key for left in check(after)}, mend


@given(trees())
def test_lines_go_through_a_file(line: Line) -> None:
    """The show file brings every stop back; its source stands under the name that
    scripts know."""
    show = replace(rig(), lines=(replace(line, source=Source(3, 2)),))
    text = write_show_json(show)
    assert read_show_json(text.encode()) == show
    assert '"from": {' in text
    assert '"version": 6' in text
    old = (
        write_show_json(rig())
        .replace('"version": 6', '"version": 1')
        .replace('"lines": [],', "")
        .replace('"nodes"', '"boxes"')
        .replace('"accepted"', '"waivers"')
        .encode()
    )
    assert read_show_json(old) == rig()


def chained(*fixtures: int) -> Show:
    """Fixtures one behind the other on a line of universe 1."""
    return edits.chain(edits.add_line(rig(), "Line A", 1), 1, fixtures)


@pytest.mark.parametrize(
    ("show", "rule", "severity", "words"),
    [
        (chained(1, 2), "unterminated", "caution", "Line A ends open behind H2."),
        (
            edits.leave_open(chained(1, 2), 1, "fails on 120 ohm"),
            "unterminated",
            "note",
            "Left so: fails on 120 ohm",
        ),
        (edits.terminate(chained(*range(1, 10)), 1), "line-load", "stop", "36 unit loads"),
        (edits.terminate(chained(*range(1, 6)), 1), "line-load", "note", "20 of 32"),
        (
            edits.set_cable_runs(chained(1, 2, 3, 4), 1, dict.fromkeys(range(1, 5), 80)),
            "line-length",
            "caution",
            "320 m",
        ),
        (
            edits.set_cable_runs(chained(1, 2), 1, {2: 101}),
            "hop-length",
            "caution",
            "cable run to H2",
        ),
        (chained(1, 21), "connector-mismatch", "caution", "5-pin meets 3-pin"),
        (edits.set_cable(chained(1), 1, [1], Cable.MICROPHONE), "audio-cable", "caution", "may do"),
        (
            edits.set_cable(chained(1, 2, 3, 4, 5), 1, [1], Cable.MICROPHONE),
            "audio-cable",
            "stop",
            "will not do",
        ),
        (edits.rename_line(chained(1), 1, "Line A", 2), "universe-mixed", "stop", "planned on U1"),
        (
            edits.chain(chained(1, 2), 1, [3], after=1),
            "split-passive",
            "caution",
            "without a driver",
        ),
        (chained(1), "not-on-line", "caution", "on no line"),
    ],
)
def test_rules_of_the_cable(show: Show, rule: str, severity: str, words: str) -> None:
    """Each rule on the smallest line that it speaks of, and nothing of it where all is right."""
    found = [finding for finding in check(show) if finding.rule == rule]
    assert found[0].severity == severity
    assert words in found[0].message
    right = edits.terminate(chained(*range(1, 5)), 1)
    right = edits.set_cable_runs(right, 1, dict.fromkeys(range(1, 5), 20))
    assert [f.rule for f in check(right) if f.line] == []


def test_nothing_is_said_without_lines() -> None:
    """A show that plans no cable hears nothing of it."""
    assert list(check(rig())) == []


def test_a_sender_serves_so_many_on_its_channel() -> None:
    """One receiver too many, and one on another channel."""
    show = edits.insert(edits.add_line(rig(), "Air", 1), 1, Device.TRANSMITTER, outputs=2)
    for number in (1, 2, 3):
        show = edits.chain(show, 1, [number], after=1)
    show = edits.set_cable(show, 1, [2, 3, 4], Cable.WIRELESS, (Plug.WIRELESS, Plug.WIRELESS))
    line = show.line(1)
    stops = [replace(s, link={1: "14", 4: "7"}.get(s.id, "14")) for s in line.stops]
    show = replace(show, lines=(replace(line, stops=tuple(stops)),))
    found = {finding.rule: finding.message for finding in check(show) if finding.severity == "stop"}
    assert "serves 2 receivers; 3 are linked" in found["wireless-receivers"]
    assert "listens on channel 7" in found["wireless-channel"]


def test_a_line_for_each_position_and_what_to_bring() -> None:
    """Planned with one step; counts of cables by length, adapters and terminators; a removed
    fixture leaves no gap."""
    show = edits.lines_by_position(rig())
    assert [(line.name, len(line.stops)) for line in show.lines] == [
        ("Here U1", 21),
        ("There U1", 21),
    ]
    with pytest.raises(EditError, match="on a line already"):
        edits.lines_by_universe(show)
    with pytest.raises(EditError, match="hangs on Here U1 already"):
        edits.chain(show, 2, [1])
    show = edits.set_cable_runs(show, 1, {1: 24, **dict.fromkeys(range(2, 21), 3)})
    pull = pull_list(show)
    assert [(held.length, held.count) for held in pull.cables] == [(24, 1), (3, 19)]
    assert pull.metres == 24 + 19 * 3
    assert pull.unknown == 20
    assert pull.pieces == (("adapter 5-pin to 3-pin", 1, 0), ("terminator", 2, 0))
    fewer = edits.remove_fixtures(show, [2, 20])
    assert [s.length for s in fewer.line(1).stops][:3] == [24, 6, 3]
    assert [f.rule for f in check(fewer) if f.line == "Here U1" and f.severity != "stop"] == []
    joined = edits.join(show, 1, 2)
    assert len(joined.lines) == 1
    assert needs_adapter(joined, wiring_of(joined.line(1)), joined.line(1).stops[20]) == (
        "5-pin",
        "3-pin",
    )
    assert pull_list(joined).pieces == (("adapter 5-pin to 3-pin", 1, 0), ("terminator", 1, 0))


def test_fixtures_on_another_universe_or_on_two_lines_find_a_way_out() -> None:
    """Hung on the line of its universe, or taken off the second line; fixtures on none are hung on
    one of theirs."""
    show = edits.chain(edits.add_line(chained(1, 2), "Other", 1), 2, [3])
    show = edits.rename_line(show, 1, "Line A", 2)
    twice = replace(
        show,
        lines=(
            show.lines[0],
            replace(show.lines[1], stops=(*show.lines[1].stops, Stop(9, 1, fixture=2))),
        ),
    )
    found = {finding.rule: finding for finding in check(twice)}
    ways = {
        rule: [mend.text for mend in line_mends(twice, finding)] for rule, finding in found.items()
    }
    assert ways["twice-on-line"] == ["Take H2 off Other"]
    # H2 hangs on Other already
    assert ways["universe-mixed"][0] in ("Hang H1 on Other", "Take H2 off Line A")
    assert "Hang them on Other, behind its last stop" in ways["not-on-line"]
    first = next(f for f in check(show) if f.rule == "universe-mixed")
    after = take(show, next(line_mends(show, first)).step)
    assert [stop.fixture for stop in after.line(2).stops] == [3, 1]
    assert [stop.fixture for stop in after.line(1).stops] == [2]
    loose = next(f for f in check(after) if f.rule == "not-on-line")
    hung = take(after, next(line_mends(after, loose)).step)
    assert {s.fixture for line in hung.lines for s in line.stops} >= set(loose.fixtures)


def test_lines_follow_a_layout() -> None:
    """A line whose fixtures all go to another universe carries that; one that goes alone hangs on a
    line of its own."""
    show = edits.terminate(chained(*range(1, 5)), 1)
    show = edits.terminate(edits.chain(edits.add_line(show, "Other", 2), 2, [5]), 2)
    moved = lay_out(show, Layout(School.BACK_TO_BACK, first=Address(3, 1), ids=(1, 2, 3, 4))).show
    assert moved.line(1).universe == 3
    assert [stop.fixture for stop in moved.line(1).stops if stop.fixture] == [1, 2, 3, 4]
    alone = lay_out(show, Layout(School.BACK_TO_BACK, first=Address(2, 1), ids=(3,))).show
    assert [stop.fixture for stop in alone.line(1).stops if stop.fixture] == [1, 2, 4]
    assert [stop.fixture for stop in alone.line(2).stops if stop.fixture] == [5, 3]
    assert all(line.stops[-1].terminates for line in alone.lines)
    assert "universe-mixed" not in {f.rule for f in check(moved) if f.line == "Line A"}


def plugged(here: tuple[Plug, Plug] | None, *, after: int | None = 1) -> tuple[Show, Stop]:
    """The second stop of a line of two heavy ones, or the first light one behind them, with plugs
    of its own."""
    show = chained(1, 2, 21)
    line = show.line(1)
    stops = tuple(replace(s, plugs=here) if s.after == after else s for s in line.stops)
    show = replace(show, lines=(replace(line, stops=stops),))
    return show, next(stop for stop in stops if stop.after == after)


@pytest.mark.parametrize(
    ("plugs", "after", "told"),
    [
        (None, 1, None),
        (None, 2, ("5-pin", "3-pin")),
        ((Plug.FIVE, Plug.FIVE), 1, None),
        ((Plug.THREE, Plug.FIVE), 1, ("5-pin", "3-pin")),
        ((Plug.FIVE, Plug.THREE), 1, ("3-pin", "5-pin")),
        ((Plug.FIVE, Plug.THREE), 2, None),
        ((Plug.THREE, Plug.THREE), 2, ("5-pin", "3-pin")),
        ((Plug.RJ45, Plug.RJ45), None, ("rj45", "5-pin")),
        ((Plug.THREE, Plug.FIVE), None, None),
    ],
)
def test_plugs_that_do_not_meet(
    plugs: tuple[Plug, Plug] | None, after: int | None, told: tuple[str, str] | None
) -> None:
    """What comes and what is taken, at the near end first; any cable meets the source."""
    show, stop = plugged(plugs, after=after)
    assert needs_adapter(show, wiring_of(show.line(1)), stop) == told


def test_neither_air_nor_an_adapter_needs_one() -> None:
    """An adapter meets everything, before and behind it."""
    show, stop = plugged((Plug.THREE, Plug.FIVE))
    wiring = wiring_of(show.line(1))
    assert needs_adapter(show, wiring, replace(stop, cable=Cable.WIRELESS)) is None
    assert needs_adapter(show, wiring, replace(stop, device=Device.ADAPTER, fixture=None)) is None
    behind = edits.insert(show, 1, Device.ADAPTER, before=stop.id)
    line = behind.line(1)
    adapter = next(one for one in line.stops if one.device is Device.ADAPTER)
    last = next(one for one in line.stops if one.after == adapter.id)
    assert needs_adapter(behind, wiring_of(line), last) is None
    assert plugs_of("XLR 3-pin and RJ45") == {"3-pin", "rj45"}
    assert plugs_of("screw terminal") == frozenset()


def test_the_way_from_the_source_to_a_stop() -> None:
    """Stop by stop, the stop itself last, and the cable as long as that."""
    show = edits.set_cable_runs(chained(1, 2, 3), 1, {1: 20, 2: 3, 3: 4})
    wiring = wiring_of(show.line(1))
    stops = show.line(1).stops
    assert [stop.fixture for stop in wiring.path_to(stops[2].id)] == [1, 2, 3]
    assert [stop.fixture for stop in wiring.path_to(stops[0].id)] == [1]
    assert [stop.fixture for stop in wiring.behind(stops[0].id)] == [2, 3]
    assert [stop.fixture for stop in wiring.behind(None)] == [1, 2, 3]


def test_what_fails_without_power() -> None:
    """A fixture that passes on unpowered fails alone; another takes what is behind it along; of
    devices those that drive or send do."""
    show = edits.chain(edits.insert(chained(1, 2), 1, Device.SPLITTER), 1, [3])
    passing = replace(HEAVY, passes_unpowered=True)
    holding = replace(HEAVY, passes_unpowered=False)
    line = show.line(1)
    by_fixture = {stop.fixture: stop for stop in line.stops}
    splitter = next(stop for stop in line.stops if stop.device is Device.SPLITTER)
    for profile, failing in ((passing, [1]), (holding, [1, 2, 3])):
        held = replace(show, profiles=(profile, LIGHT))
        assert sorted(without_power(held, line, by_fixture[1].id)) == failing
    behind = sorted(stop.fixture or 0 for stop in wiring_of(line).behind(splitter.id))
    assert sorted(without_power(show, line, splitter.id)) == behind
    passive = replace(splitter, boosted=False)
    stops = tuple(passive if stop is splitter else stop for stop in line.stops)
    assert without_power(show, replace(line, stops=stops), splitter.id) == []


def test_a_second_transmitter_hangs_by_cable() -> None:
    """Also behind one that is linked itself: the new one is no further receiver of it."""
    aired = Cable.WIRELESS
    stops = (
        Stop(1, device=Device.TRANSMITTER, cable=aired, outputs=1),
        Stop(2, 1, fixture=1, cable=aired),
        Stop(3, 1, fixture=2, cable=aired),
    )
    show = replace(rig(), lines=(Line(1, "Line A", 1, stops=stops),))
    after = edits.second_transmitter(show, 1, 1)
    assert not [f for f in check(after) if f.rule == "wireless-receivers"]
    assert {stop.fixture: stop.after for stop in after.line(1).stops if stop.fixture} == {
        1: 1,
        2: 4,
    }
