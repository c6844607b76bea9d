"""The practice rig: what each fixture does with what is sent, with whatever is wrong; and how one
is brought up."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.charts.remarks import IDLE_WORDS
from fence.core.charts.vocabulary import EMITTERS, FILTERS
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile, Range
from fence.core.model.record import Witness
from fence.core.model.show import Show
from fence.core.simulation.bringing import Look, expected, levels_for, looks_of
from fence.core.simulation.faults import read_fault
from fence.core.simulation.many import Columns
from fence.core.simulation.practice import Alone, PracticeRig, alone_of, seen_of
from fence.core.simulation.sight import range_at
from fence.demo import clean_show, on_site_show, on_site_steps
from fence.library import shipped_profiles
from tests.examples import examples

MODES = [(p, m) for p in shipped_profiles() for m in p.modes if m.footprint and m.parts[0].channels]
COLOURS = [Function.RED, Function.GREEN, Function.BLUE, Function.WHITE, Function.AMBER]


@st.composite
def charts(draw: st.DrawFn) -> Mode:
    """A chart of dimmer (8 or 16 bits, or none), some emitters, a shutter with three ranges, in any
    order."""
    channels = [
        Channel(colour)
        for colour in draw(st.lists(st.sampled_from(COLOURS), unique=True, max_size=5))
    ]
    if draw(st.booleans()):
        cut = sorted(draw(st.lists(st.integers(1, 254), min_size=2, max_size=2, unique=True)))
        ranges = (
            Range(0, cut[0] - 1, "closed"),
            Range(cut[0], cut[1] - 1, "strobe"),
            Range(cut[1], 255, "open"),
        )
        channels.append(Channel(Function.SHUTTER, ranges=ranges))
    if draw(st.booleans()):
        channels.append(Channel(Function.ZOOM))
    channels = draw(st.permutations(channels))
    how = draw(st.sampled_from(["none", "whole", "fine"]))
    dimmers = {"none": [], "whole": [Byte.WHOLE], "fine": [Byte.COARSE, Byte.FINE]}[how]
    channels = [*(Channel(Function.DIMMER, byte=byte) for byte in dimmers), *channels] or [
        Channel(Function.DIMMER)
    ]
    return Mode("m", (Part(len(channels), tuple(channels)),))


def naive_light(mode: Mode, levels: bytes) -> float:
    """The brightest emitter of a chart as above, read anew: dimmer times colour, nothing through a
    closed shutter."""
    dimmer: float | None = None
    gate, colours = 1, []
    for place, channel in enumerate(mode.parts[0].channels):
        level = levels[place]
        if channel.function is Function.DIMMER and channel.byte is Byte.WHOLE:
            dimmer = level / 255
        elif channel.function is Function.DIMMER and channel.byte is Byte.COARSE:
            dimmer = (256 * level + levels[place + 1]) / 65535
        elif channel.function in COLOURS:
            colours.append(level / 255)
        elif channel.function is Function.SHUTTER:
            gate = 0 if level <= channel.ranges[0].last else 1
    if (
        not colours
        and dimmer is None
        and not any(c.function is Function.SHUTTER for c in mode.parts[0].channels)
    ):
        return 0.0
    return gate * (1.0 if dimmer is None else dimmer) * (max(colours) if colours else 1.0)


@examples(150)
@given(st.lists(charts(), min_size=1, max_size=6), st.data())
def test_each_takes_its_own_slots(modes: list[Mode], data: st.DataObject) -> None:
    """On random charts, addresses and frames: the light of each fixture is that of a naive reading
    of its own slots, and nobody else's slots move it."""
    profiles = tuple(Profile(f"p{n}", "Trowel", f"P{n}", (mode,)) for n, mode in enumerate(modes))
    show = Show("R", profiles=profiles)
    for number, profile in enumerate(profiles):
        at = Address(
            data.draw(st.integers(1, 2)), data.draw(st.integers(1, 513 - modes[number].footprint))
        )
        show = edits.add_fixtures(
            show, edits.AddRun(profile, "m", 1, f"F {number}", None, "", 0, at)
        )
    frames = {u: data.draw(st.binary(min_size=512, max_size=512)) for u in (1, 2)}
    seen = PracticeRig(show).seen(frames)
    for fixture, mode in zip(show.fixtures, modes, strict=True):
        assert fixture.universe is not None
        assert fixture.start is not None
        own = bytes(
            frames[fixture.universe][fixture.start - 1 + place] for place in range(mode.footprint)
        )
        sight = seen[fixture.id].sight
        assert sight is not None
        assert sight.intensity == pytest.approx(naive_light(mode, own))
        other = bytearray(255 - level for level in frames[fixture.universe])
        other[fixture.start - 1 : fixture.start - 1 + mode.footprint] = own
        assert (
            PracticeRig(show).seen({**frames, fixture.universe: bytes(other)})[fixture.id]
            == seen[fixture.id]
        )


def called(show: Show, label: str) -> Fixture:
    """The fixture of that name."""
    return next(fixture for fixture in show.fixtures if fixture.label == label)


def brought_up(show: Show, label: str, look: Look = Look.OPEN) -> dict[int, bytes]:
    """The frame that brings one fixture up as the plan has it, all others down."""
    fixture = called(show, label)
    mode = show.mode_of(fixture)
    assert mode is not None
    assert fixture.start is not None
    assert fixture.universe is not None
    frame = bytearray(512)
    levels = levels_for(mode, look)
    frame[fixture.start - 1 : fixture.start - 1 + len(levels)] = levels
    return {**{u: bytes(512) for u in (1, 2, 3, 4)}, fixture.universe: bytes(frame)}


def lit(show: Show, faults: list[str], frames: dict[int, bytes]) -> set[str]:
    """Who gives light, with faults as typed."""
    rig = PracticeRig(show, tuple(read_fault(show, text) for text in faults))
    return {
        show.fixture(fixture_id).label for fixture_id, seen in rig.seen(frames).items() if seen.lit
    }


@pytest.mark.parametrize(
    ("fault", "lights"),
    [
        ("", {"Fern 5"}),
        ("no-power=Fern 5", set()),
        ("flat=Fern 5", set()),
        ("deaf=Fern 5", set()),
        ("plug-out=Fern 5", set()),
        ("plug-out=Fern 1", set()),
        ("wrong-address=Fern 5:9", set()),
        ("no-power=Fern 4", {"Fern 5"}),
        ("blackout", set()),
        ("no-terminator=Line A", {"Fern 5"}),
        ("wrong-cable=Fern 4", {"Fern 5"}),
    ],
)
def test_what_is_wrong_shows(fault: str, lights: set[str]) -> None:
    """One fixture is brought up alone; each fault shows as it does in the field."""
    show = clean_show()
    frames = brought_up(show, "Fern 5")
    assert lit(show, [fault] if fault else [], frames) == lights
    rig = PracticeRig(show, tuple(read_fault(show, text) for text in ([fault] if fault else [])))
    flickers = rig.seen(frames)[called(show, "Fern 5").id].flickers
    assert flickers == (fault in ("no-terminator=Line A", "wrong-cable=Fern 4"))


def test_a_box_that_gives_another_universe() -> None:
    """A port set to another universe, or a box that counts otherwise: its line hears nothing of its
    own."""
    show = clean_show()
    line = next(line for line in show.lines if line.source is not None)
    assert line.source is not None
    box = show.box(line.source.box)
    fixture = next(
        f
        for f in show.fixtures
        if f.universe == line.universe and f.id in PracticeRig(show).signals
    )
    for fault in (f"wrong-universe={box.name}:{line.source.port}", f"off-by-one={box.name}"):
        rig = PracticeRig(show, (read_fault(show, fault),))
        assert rig.signals[fixture.id].universe not in (None, line.universe) or not any(
            stop.fixture == fixture.id for stop in line.stops
        )


def test_another_mode_answers_otherwise() -> None:
    """A fixture left in another mode does something else with the same levels."""
    show = clean_show()
    fixture = called(show, "Fern 5")
    frames = brought_up(show, "Fern 5", Look.RED)
    other = next(mode for mode in show.profiles if mode.id == fixture.profile).modes[0]
    right = PracticeRig(show).seen(frames)[fixture.id]
    wrong = PracticeRig(show, (read_fault(show, f"wrong-mode=Fern 5:{other.name}"),)).seen(frames)[
        fixture.id
    ]
    assert right != wrong


def test_a_rig_stands_as_it_was_set() -> None:
    """What was set before the plan changed stands there still; what the plan calls does not
    answer."""
    show = on_site_show()
    for who, _, step in on_site_steps():
        show = step(show, Witness(who))
    rig = PracticeRig(show)
    fern = called(show, "Fern 6")
    assert rig.stands[fern.id].starts == (105,)
    assert fern.start == 499
    assert not lit(show, [], brought_up(show, "Fern 6"))


def test_alone_without_a_signal() -> None:
    """Held, dark, or its own show, as the chart says."""
    show = clean_show()
    rig = PracticeRig(show)
    before = {u: bytes([255]) * 512 for u in range(1, 5)}
    seen = rig.seen({}, before)
    states = {}
    for fixture in show.fixtures:
        alone = alone_of(show.profile_of(fixture))
        states.setdefault(alone, set()).add(seen[fixture.id].state)
    assert states[Alone.DEMO] == {"own program"}
    assert states[Alone.DARK] == {"dark"}
    assert rig.seen({})[called(show, "Fern 5").id].state == "dark"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("fire=Fern 5", "is not a fault"),
        ("no-power=Nobody", "no fixture"),
        ("wrong-mode=Fern 5:9 legs", "no mode"),
        ("wrong-address=Fern 5:600", "not an address"),
        ("wrong-address=Fern 5", "not an address"),
        ("no-terminator=Line Z", "no line"),
        ("off-by-one=Nowhere", "no node"),
    ],
)
def test_a_fault_that_cannot_be(text: str, words: str) -> None:
    """It says what is accepted."""
    with pytest.raises(EditError, match=words):
        read_fault(clean_show(), text)


@pytest.mark.parametrize(
    ("profile", "mode"), MODES, ids=lambda one: getattr(one, "id", getattr(one, "name", ""))
)
def test_every_shipped_mode_is_brought_up(profile: Profile, mode: Mode) -> None:
    """Open white gives light, a colour is that colour, and nothing that could do harm is raised."""
    for look in looks_of(mode):
        levels = levels_for(mode, look)
        assert len(levels) == mode.footprint
        channels = [channel for part in mode.parts for channel in part.channels]
        for channel, level in zip(channels, levels, strict=True):
            if channel.function in (Function.RESET, Function.PROGRAM, Function.SOUND):
                found = range_at(channel, level)
                assert level == 0 or (found and found.meaning.lower().startswith(IDLE_WORDS)), (
                    profile.id,
                    mode.name,
                )
        seen = expected(mode, look)
        functions = {channel.function for channel in channels}
        if functions & (EMITTERS | FILTERS | {Function.DIMMER}):
            assert seen.lit, (profile.id, mode.name, look)
            assert seen.state == "lit", (profile.id, mode.name, look, seen.state)
        if look in (Look.RED, Look.GREEN, Look.BLUE):
            place = (Look.RED, Look.GREEN, Look.BLUE).index(look)
            assert max(seen.colour) == seen.colour[place], (
                profile.id,
                mode.name,
                look,
                seen.colour,
            )


NARROW = [mode for _, mode in MODES if mode.footprint <= 64]


@examples(100)
@given(st.one_of(charts(), st.sampled_from(NARROW)), st.data())
def test_many_at_once_see_what_one_sees(mode: Mode, data: st.DataObject) -> None:
    """Columns of levels give the very colours and words that each row gives by itself, number by
    number."""
    width = mode.footprint
    rows = data.draw(st.lists(st.binary(min_size=width, max_size=width), min_size=1, max_size=12))
    rows += [bytes(width), bytes([255]) * width, bytes([128]) * width]
    colours, states = Columns(mode).seen_of(rows)
    singly = [seen_of(mode, row) for row in rows]
    assert colours == [one.colour for one in singly]
    assert states == [one.state for one in singly]


def test_a_large_rig_is_reckoned_as_a_small_one() -> None:
    """The demo rig many times over: each copy does what the one does, also where it is
    remembered."""
    show = clean_show()
    copies = 40
    fixtures = tuple(
        replace(
            fixture,
            id=fixture.id + 1000 * copy,
            patch=tuple(
                replace(entry, universe=(entry.universe + 10 * copy) if entry.universe else None)
                for entry in fixture.patch
            ),
        )
        for copy in range(copies)
        for fixture in show.fixtures
    )
    big = replace(show, fixtures=fixtures, lines=(), boxes=(), next_id=10**6)
    small = replace(show, lines=(), boxes=())
    random = Random(3)
    frames = {u: random.randbytes(512) for u in range(1, 5)}
    rig, one = PracticeRig(big), PracticeRig(small)
    for _ in range(2):
        everywhere = {
            u + 10 * copy: levels for u, levels in frames.items() for copy in range(copies)
        }
        seen, wanted = rig.seen(everywhere), one.seen(frames)
        assert all(seen[f.id] == wanted[f.id % 1000] for f in fixtures)
        frames = {u: random.randbytes(512) for u in range(1, 5)}
