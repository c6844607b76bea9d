"""A practice rig: what each fixture does with what is sent, standing in its own mode at its own
address.

The plan says what ought to be; here is what is. Faults are put on fixtures, cable runs, lines and
boxes as they happen in the field. What a fixture does with a frame is one function of what it
hears; nothing here knows of a network or a clock."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property
from itertools import repeat, zip_longest
from typing import TYPE_CHECKING, NamedTuple

from fence.core.model.address import MAX_UNIVERSE, SLOTS
from fence.core.model.box import Box, Port
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Line, Stop
from fence.core.model.network import given_by
from fence.core.model.profile import Function, Mode, Profile
from fence.core.model.show import Show
from fence.core.model.standing import stands
from fence.core.model.text import whole_number
from fence.core.model.wiring import Wiring, wiring_of
from fence.core.simulation.faults import (
    COUNTED_WRONG,
    GIVES_NOTHING,
    ON_A_LINE,
    ON_THE_WAY,
    Fault,
    Trouble,
)
from fence.core.simulation.sight import OWN_COLOUR, Sight, colour_of, sight_of

if TYPE_CHECKING:
    from fence.core.simulation.many import Columns

Frames = Mapping[int, bytes]
"""What is sent: the levels of universes, by number, from slot 1 on; shorter ones end in zeros."""

LARGE = 1000
"""From how many fixtures on a rig is reckoned by columns from the start."""
MANY = 16
"""From how many different ones on they are reckoned all at once."""
KEPT = 50_000
"""Sights of one mode that are remembered: most fixtures hear what another one heard a moment
ago."""


@dataclass(frozen=True, slots=True)
class Stand:
    """How a fixture really stands: its mode and the start of each part, whether it listens and has
    power, whether it runs a program of its own, and whether light comes out at all."""

    mode: Mode | None
    starts: tuple[int | None, ...]
    listens: bool = True
    powered: bool = True
    own_program: bool = False
    shines: bool = True


@dataclass(frozen=True, slots=True)
class Signal:
    """What reaches a fixture: a universe, or None and nothing that it could take; whether it is
    clean; why not, in words for a person. What is ``garbled`` arrives and cannot be read."""

    universe: int | None
    clean: bool = True
    why: str = ""
    garbled: bool = False


class Seen(NamedTuple):
    """What a fixture does, as somebody in the room sees it.

    ``mode`` and ``levels`` are what it takes it from, None and none where it takes nothing from a
    frame.
    """

    mode: Mode | None
    levels: bytes
    colour: tuple[int, int, int]
    state: str
    flickers: bool = False

    @property
    def sight(self) -> Sight | None:
        """What is seen of it in all details; None where it takes nothing from a frame."""
        return sight_of(self.mode, self.levels) if self.mode is not None else None

    @property
    def lit(self) -> bool:
        """Whether any light comes out."""
        return any(self.colour)


DARK = Seen(None, b"", (0, 0, 0), "dark")
OWN_SHOW = Seen(None, b"", OWN_COLOUR, "own program")


class Alone(StrEnum):
    """What a fixture does when it hears nothing."""

    HOLDS = "holds"
    DARK = "dark"
    DEMO = "demo"


def alone_of(profile: Profile | None) -> Alone:
    """What a fixture does without a signal, from the words of its chart."""
    words = profile.no_signal.lower() if profile else ""
    if any(sign in words for sign in ("demo", "rainbow", "music", "program", "own")):
        return Alone.DEMO
    return Alone.HOLDS if "hold" in words and "dark" not in words else Alone.DARK


@dataclass(frozen=True)
class Kept:
    """What is made ready once for all rigs of one show: the trees of its lines, how its modes are
    read, and how fixtures stand and what arrives on lines that no fault touches."""

    wirings: dict[int, Wiring] = field(default_factory=dict)
    readers: dict[int, Reader] = field(default_factory=dict)
    stood: dict[int, Stand] = field(default_factory=dict)
    arrived: dict[int, dict[int, Signal]] = field(default_factory=dict)

    def wiring(self, line: Line) -> Wiring:
        """The tree of a line."""
        if line.id not in self.wirings:
            self.wirings[line.id] = wiring_of(line)
        return self.wirings[line.id]

    def reader(self, mode: Mode) -> Reader:
        """How a mode is read."""
        if id(mode) not in self.readers:
            self.readers[id(mode)] = Reader(mode)
        return self.readers[id(mode)]


@dataclass(frozen=True)
class PracticeRig:
    """A show as it stands, with its faults. Its fixtures stand as they are known to, else as
    planned, but for those. Rigs of one show may share what is ``kept``."""

    show: Show
    faults: tuple[Fault, ...] = ()
    kept: Kept = field(default_factory=Kept, compare=False, repr=False)

    @cached_property
    def by_trouble(self) -> dict[Trouble, list[Fault]]:
        """The faults by what is wrong."""
        found: dict[Trouble, list[Fault]] = {}
        for fault in self.faults:
            found.setdefault(fault.trouble, []).append(fault)
        return found

    def has(self, trouble: Trouble, fixture_id: int) -> bool:
        """Whether a fixture has a trouble."""
        return any(fault.fixture == fixture_id for fault in self.by_trouble.get(trouble, ()))

    @cached_property
    def stands(self) -> dict[int, Stand]:
        """How each fixture stands: as it was last set or read, else as planned; but for its
        faults."""
        return {fixture.id: self.stand_of(fixture) for fixture in self.show.fixtures}

    @cached_property
    def _stood(self) -> dict[int, Stand]:
        return {}

    def stand_of(self, fixture: Fixture) -> Stand:
        """How one fixture stands."""
        stood = self._stood if fixture.id in self._faulty else self.kept.stood
        found = stood.get(fixture.id)
        if found is None:
            found = stood[fixture.id] = self._stand(fixture)
        return found

    @cached_property
    def _faulty(self) -> frozenset[int]:
        """The fixtures that have a fault of their own."""
        return frozenset(fault.fixture for fault in self.faults if fault.fixture is not None)

    def _stand(self, fixture: Fixture) -> Stand:
        mode = self.show.mode_of(fixture)
        starts = tuple(entry.slot for entry in fixture.patch)
        if (known := stands(fixture)) is not None:
            mode = self.show.modes.get((fixture.profile, known.mode), mode)
            starts = tuple(
                slot if slot else planned for slot, planned in zip_longest(known.slots, starts)
            )
        mine = {fault.trouble: fault for fault in self.faults if fault.fixture == fixture.id}
        if Trouble.WRONG_MODE in mine:
            wrong = mine[Trouble.WRONG_MODE].value
            mode = self.show.modes.get((fixture.profile, wrong), mode)
        if Trouble.WRONG_ADDRESS in mine:
            starts = (whole_number(mine[Trouble.WRONG_ADDRESS].value), *starts[1:])
        return Stand(
            mode,
            starts,
            listens=Trouble.DEAF not in mine,
            powered=Trouble.NO_POWER not in mine and Trouble.FLAT not in mine,
            own_program=Trouble.OWN_PROGRAM in mine,
            shines=Trouble.NO_LAMP not in mine,
        )

    @cached_property
    def signals(self) -> dict[int, Signal]:
        """What reaches each fixture over its line; where none leads to it, the universe that it is
        planned in. Of one in several parts it is what reaches the first."""
        return {fixture_id: signals[0] for fixture_id, signals in self._of_parts.items()}

    @cached_property
    def _of_parts(self) -> dict[int, tuple[Signal, ...]]:
        """What reaches each part of each fixture: one signal for all where it has one way in, as
        nearly always."""
        ways: dict[int, list[tuple[int | None, Signal]]] = {}
        for line in self.show.lines:
            arriving = self.arriving(line)
            for stop in self.kept.wiring(line).behind(None):
                if stop.fixture is not None:
                    ways.setdefault(stop.fixture, []).append((line.universe, arriving[stop.id]))
        return {
            fixture.id: self._at_parts(fixture, ways.get(fixture.id, []))
            for fixture in self.show.fixtures
        }

    def reaching(self, fixture: Fixture, ways: Iterable[tuple[Line, Stop]]) -> tuple[Signal, ...]:
        """What reaches the parts of one fixture by the lines on which it hangs, and where."""
        return self._at_parts(
            fixture, [(line.universe, self.arriving(line)[stop.id]) for line, stop in ways]
        )

    def _at_parts(
        self, fixture: Fixture, ways: Sequence[tuple[int | None, Signal]]
    ) -> tuple[Signal, ...]:
        """What reaches the parts of a fixture by the lines on which it hangs, each with what it is
        planned to carry."""
        universes = self.show.universes_of(fixture)
        if len(ways) == 1 or (ways and len(universes) < 2):
            return (ways[0][1],)
        if not ways and self.has(Trouble.PLUG_OUT, fixture.id):
            return (Signal(None, why="its plug is out"),)
        rough = self.has(Trouble.WRONG_CABLE, fixture.id)
        if len(universes) < 2:
            return (self._from(universes[0] if universes else fixture.universe, rough=rough),)
        by_line: dict[int | None, Signal] = {}
        for carried, signal in ways:
            by_line.setdefault(carried, signal)
        if not ways:
            return tuple(self._from(entry.universe, rough=rough) for entry in fixture.patch)
        return tuple(by_line.get(entry.universe, ways[0][1]) for entry in fixture.patch)

    def _from(self, universe: int | None, *, rough: bool = False) -> Signal:
        """A universe as it comes from where it is sent: not clean where a second source sends it,
        too."""
        twice = any(
            fault.value == str(universe) for fault in self.by_trouble.get(Trouble.SECOND_SOURCE, ())
        )
        return Signal(
            universe, clean=not rough and not twice, why="a second source" if twice else ""
        )

    @cached_property
    def _arrived(self) -> dict[int, dict[int, Signal]]:
        return {}

    def arriving(self, line: Line) -> dict[int, Signal]:
        """What arrives at each device of a line, by its id: cable run by cable run from the source
        on."""
        arrived = self._arrived if self._touches(line) else self.kept.arrived
        found = arrived.get(line.id)
        if found is not None:
            return found
        start = self._from(self._fed(line))
        for trouble in ON_A_LINE:
            if any(fault.line == line.name for fault in self.by_trouble.get(trouble, ())):
                start = replace(start, clean=False, why=str(trouble).replace("-", " "))
        left: dict[int | None, Signal] = {None: start}
        found = arrived[line.id] = {}
        for stop in self.kept.wiring(line).behind(None):
            found[stop.id] = self._through(line, stop, left[stop.after])
            left[stop.id] = self._passed_on(line, stop, found[stop.id])
        return found

    def _touches(self, line: Line) -> bool:
        """Whether a fault may change what arrives on a line."""
        for fault in self.faults:
            if fault.trouble is Trouble.SECOND_SOURCE or fault.line == line.name:
                return True
            if fault.box and line.source is not None:
                box = self.show.box_by_id.get(line.source.box)
                if box is not None and box.name == fault.box:
                    return True
            if (
                fault.trouble in ON_THE_WAY
                and not fault.line
                and any(stop.fixture == fault.fixture for stop in line.stops)
            ):
                return True
        return False

    def _at(
        self, trouble: Trouble, line: Line, stop_id: int | None, fixture_id: int | None
    ) -> bool:
        """Whether a fault is at a device of a line; one that names no line is at its fixture."""
        for fault in self.by_trouble.get(trouble, ()):
            if fault.line:
                if fault.line == line.name and fault.stop == stop_id:
                    return True
            elif fixture_id is not None and fault.fixture == fixture_id:
                return True
        return False

    def _through(self, line: Line, stop: Stop, signal: Signal) -> Signal:
        """What comes out of the cable run, or the link, to a device."""
        if not self.faults:
            return signal
        if self._at(Trouble.PLUG_OUT, line, stop.id, stop.fixture):
            return Signal(None, why="a plug is out")
        if self._at(Trouble.SWAPPED_PAIR, line, stop.id, stop.fixture):
            return Signal(None, why="its data pair is swapped", garbled=signal.universe is not None)
        if stop.cable is Cable.WIRELESS and self._at(Trouble.UNLINKED, line, stop.id, stop.fixture):
            return Signal(None, why="not linked")
        if stop.output is not None and any(
            fault.value == str(stop.output)
            for fault in self.by_trouble.get(Trouble.OUTPUT_DEAD, ())
            if (fault.line, fault.stop) == (line.name, stop.after)
        ):
            return Signal(None, why="the output is dead")
        if signal.universe is not None and self._at(
            Trouble.WRONG_CABLE, line, stop.id, stop.fixture
        ):
            return replace(signal, clean=False, why="the wrong cable")
        return signal

    def _passed_on(self, line: Line, stop: Stop, signal: Signal) -> Signal:
        """What leaves a device: one that boosts the signal does not without power."""
        if self.faults and self._at(Trouble.SPLITTER_OFF, line, stop.id, None):
            return Signal(None, why="a splitter has no power")
        if stop.fixture not in self._faulty:
            return signal
        fixture = self.show.fixture_by_id.get(stop.fixture) if stop.fixture is not None else None
        if fixture is None or self.stand_of(fixture).powered:
            return signal
        profile = self.show.profile_of(fixture)
        if profile is None or profile.passes_unpowered:
            return signal
        return Signal(None, why="it does not pass on unpowered")

    def _fed(self, line: Line) -> int | None:
        """The universe that a line carries: what its port really gives, else what is planned."""
        box = self.show.box_by_id.get(line.source.box) if line.source else None
        port = box.port(line.source.port) if box and line.source else None
        if box is None or port is None:
            return line.universe
        return self.given(box, port)

    def given(self, box: Box, port: Port) -> int | None:
        """The universe that really comes out of a port, with the faults on it."""
        universe = given_by(box, port)
        for fault in self.faults:
            if universe is None or fault.box != box.name or fault.port not in (None, port.number):
                continue
            if fault.trouble in GIVES_NOTHING:
                return None
            if fault.trouble in COUNTED_WRONG:
                universe += 7 if fault.trouble is Trouble.WRONG_UNIVERSE else 1
        return universe if universe is not None and 1 <= universe <= MAX_UNIVERSE else None

    @cached_property
    def _readers(self) -> dict[int, Reader]:
        modes = ((f.id, self.stands[f.id].mode) for f in self.show.fixtures)
        return {fixture_id: self.kept.reader(mode) for fixture_id, mode in modes if mode}

    def sent(self, frames: Frames) -> Frames:
        """What the desk really sends of these levels."""
        if Trouble.BLACKOUT in self.by_trouble:
            return {universe: bytes(SLOTS) for universe in frames}
        lost = {fault.value for fault in self.by_trouble.get(Trouble.NOT_SENT, ())}
        return {universe: frame for universe, frame in frames.items() if str(universe) not in lost}

    def seen_at(self, fixture: Fixture, frames: Frames, ways: Iterable[tuple[Line, Stop]]) -> Seen:
        """What one fixture does with whole frames of levels, which come by the lines on which it
        hangs; as ``seen``, without looking at any other."""
        stand, signals = self.stand_of(fixture), self.reaching(fixture, ways)
        reader = self.kept.reader(stand.mode) if stand.mode else None
        plain = self._plain_of(fixture, stand, signals, (), reader)
        heard = plain.heard(self.sent(frames), {})
        if plain.reader is None or heard is None:
            return plain.without
        found = plain.reader.seen(heard)
        rough = any(not signal.clean for signal in signals)
        return found._replace(flickers=True) if rough and found.lit else found

    def seen(self, frames: Frames, before: Frames | None = None) -> dict[int, Seen]:
        """What every fixture does with what is sent now. ``before`` is what was sent last, for
        those that hold it when nothing comes; without it they are dark."""
        whole = {
            universe: bytes(levels)[:SLOTS].ljust(SLOTS, b"\0")
            for universe, levels in self.sent(frames).items()
        }
        held = {
            universe: bytes(levels)[:SLOTS].ljust(SLOTS, b"\0")
            for universe, levels in (before or {}).items()
        }
        found = self._all_at_once(whole) if whole and len(self.show.fixtures) > LARGE else {}
        hearing: dict[int, tuple[Reader, list[int], list[bytes]]] = {}
        for fixture in self.show.fixtures if len(found) < len(self.show.fixtures) else ():
            if fixture.id in found:
                continue
            plain = self._plain[fixture.id]
            heard = plain.heard(whole, held)
            if plain.reader is None or heard is None:
                found[fixture.id] = plain.without
                continue
            reader, ids, levels = hearing.setdefault(id(plain.reader), (plain.reader, [], []))
            ids.append(fixture.id)
            levels.append(heard)
        for reader, ids, levels in hearing.values():
            found.update(zip(ids, reader.all_seen(levels), strict=True))
        for fixture_id in self._rough:
            if found[fixture_id].lit and found[fixture_id].mode is not None:
                found[fixture_id] = found[fixture_id]._replace(flickers=True)
        return found

    def _all_at_once(self, frames: Frames) -> dict[int, Seen]:
        """What those do that hear one of these frames with a mode of one part: so many are reckoned
        by columns."""
        import numpy as np

        rows = {universe: row for row, universe in enumerate(frames)}
        matrix = np.frombuffer(b"".join(frames.values()), dtype=np.uint8).reshape(
            len(frames), SLOTS
        )
        found: dict[int, Seen] = {}
        for reader, ids, universes, starts in self._groups:
            here = np.array([rows.get(universe, -1) for universe in universes])
            there = here >= 0
            offsets = np.array(starts)[there, None] - 1 + np.arange(reader.widths[0])
            levels = matrix[here[there, None], offsets]
            colours, states = reader.columns.seen(levels)
            data, width = levels.tobytes(), reader.widths[0]
            own = (data[at : at + width] for at in range(0, len(data), width))
            mine = (
                ids
                if there.all()
                else [one for one, heard in zip(ids, there.tolist(), strict=True) if heard]
            )
            found.update(
                zip(mine, map(Seen, repeat(reader.mode), own, colours, states), strict=True)
            )
        return found

    @cached_property
    def _groups(self) -> list[tuple[Reader, list[int], list[int], list[int]]]:
        """Those of one part within a universe, by how they are read: ids, universes that reach
        them, starts."""
        found: dict[int, tuple[Reader, list[int], list[int], list[int]]] = {}
        for fixture_id, plain in self._plain.items():
            reader, start = plain.reader, plain.starts[0] if plain.starts else None
            universe = plain.universes[0]
            if reader is None or universe is None or start is None or len(reader.widths) != 1:
                continue
            width = reader.widths[0]
            if reader.mode.parts[0].channels and start + width - 1 <= SLOTS:
                _, ids, universes, starts = found.setdefault(id(reader), (reader, [], [], []))
                ids.append(fixture_id)
                universes.append(universe)
                starts.append(start)
        return list(found.values())

    @cached_property
    def _rough(self) -> list[int]:
        """The fixtures that a signal reaches which is not clean."""
        return [
            fixture_id
            for fixture_id, signals in self._of_parts.items()
            if any(not signal.clean for signal in signals)
        ]

    @cached_property
    def _plain(self) -> dict[int, Plain]:
        """What is asked of each fixture for every frame, looked up once."""
        found = {}
        for fixture in self.show.fixtures:
            signals = self._of_parts[fixture.id]
            holds: tuple[int | None, ...] = ()
            if alone_of(self.show.profile_of(fixture)) is Alone.HOLDS:
                holds = tuple(signal.universe for signal in self._before[fixture.id])
            found[fixture.id] = self._plain_of(
                fixture, self.stands[fixture.id], signals, holds, self._readers.get(fixture.id)
            )
        return found

    def _plain_of(
        self,
        fixture: Fixture,
        stand: Stand,
        signals: Sequence[Signal],
        holds: tuple[int | None, ...],
        reader: Reader | None,
    ) -> Plain:
        demo = alone_of(self.show.profile_of(fixture)) is Alone.DEMO or stand.own_program
        takes = stand.powered and stand.listens and stand.shines and not stand.own_program
        return Plain(
            reader if takes else None,
            tuple(signal.universe for signal in signals),
            stand.starts,
            OWN_SHOW if demo and stand.powered and stand.shines and reader is not None else DARK,
            holds,
        )

    @cached_property
    def _before(self) -> dict[int, tuple[Signal, ...]]:
        """What reached each part before anything was pulled out: the last that those hear which
        hold it."""
        sources = tuple(fault for fault in self.faults if fault.trouble in COUNTED_WRONG)
        return (
            self._of_parts
            if len(sources) == len(self.faults)
            else PracticeRig(self.show, sources, self.kept)._of_parts
        )


@dataclass(frozen=True, slots=True)
class Plain:
    """What counts for a fixture with every frame.

    How it is read (None where it takes nothing), the universe that reaches each part (one for all
    where they are the same), its starts, what it does without a signal, and the universes of which
    it holds the last frame then.
    """

    reader: Reader | None
    universes: tuple[int | None, ...]
    starts: tuple[int | None, ...]
    without: Seen
    holds: tuple[int | None, ...]

    def heard(self, frames: Frames, held: Frames) -> bytes | None:
        """The levels of its slots; None where it takes nothing and holds nothing. A part to which
        nothing comes, while another one hears, holds what it heard last or stands at zero."""
        if self.reader is None:
            return None
        now = [
            frames.get(universe) if universe is not None else None for universe in self.universes
        ]
        if None not in now and len(now) == 1:
            return self.reader.hears(now[0] or b"", self.starts)
        last = [
            held.get(universe) if universe is not None else None for universe in self.holds
        ] or [None] * len(now)
        best = [one if one is not None else was for one, was in zip_longest(now, last)]
        if all(one is None for one in best):
            return None
        if len(best) == 1:
            return self.reader.hears(best[0] or b"", self.starts)
        return self.reader.hears_each([one or b"" for one in best], self.starts)


class Reader:
    """What a fixture in one mode does with the levels of its own slots, each answer remembered."""

    def __init__(self, mode: Mode) -> None:
        self.widths = [part.footprint for part in mode.parts]
        self.mode = mode
        self._known: dict[bytes, Seen] = {}

    @cached_property
    def columns(self) -> Columns:
        """The mode made ready for many at once."""
        from fence.core.simulation.many import Columns  # loaded only where there are many

        return Columns(self.mode)

    def all_seen(self, levels: Sequence[bytes]) -> list[Seen]:
        """What is seen of many fixtures; those that nobody has asked for yet are reckoned all at
        once."""
        now = {one: known for one in levels if (known := self._known.get(one)) is not None}
        fresh = list({one for one in levels if one not in now})
        if len(fresh) <= MANY or not self.mode.parts[0].channels:
            return [self.seen(one) for one in levels]
        colours, states = self.columns.seen_of(fresh)
        made = {
            one: Seen(self.mode, one, colour, state)
            for one, colour, state in zip(fresh, colours, states, strict=True)
        }
        if len(self._known) + len(made) > KEPT:
            self._known.clear()
        self._known.update(made)
        now.update(made)
        return [now[one] for one in levels]

    def hears(self, frame: bytes, starts: Sequence[int | None]) -> bytes:
        """The levels of its slots, part by part; what lies past the end, or has no address, is
        zero."""
        if len(self.widths) == 1 and (start := starts[0]):
            return frame[start - 1 : start - 1 + self.widths[0]].ljust(self.widths[0], b"\0")
        pieces = []
        for place, width in enumerate(self.widths):
            start = starts[place] if place < len(starts) else None
            pieces.append(
                (frame[start - 1 : start - 1 + width] if start else b"").ljust(width, b"\0")
            )
        return b"".join(pieces)

    def hears_each(self, frames: Sequence[bytes], starts: Sequence[int | None]) -> bytes:
        """The levels of its slots where each part hears a frame of its own."""
        pieces = []
        for place, width in enumerate(self.widths):
            start = starts[place] if place < len(starts) else None
            frame = frames[place] if place < len(frames) else b""
            pieces.append(
                (frame[start - 1 : start - 1 + width] if start else b"").ljust(width, b"\0")
            )
        return b"".join(pieces)

    def seen(self, levels: bytes) -> Seen:
        """What is seen of it."""
        known = self._known.get(levels)
        if known is None:
            if len(self._known) >= KEPT:
                self._known.clear()
            known = self._known[levels] = seen_of(self.mode, levels)
        return known


def seen_of(mode: Mode, levels: bytes) -> Seen:
    """What a fixture in a mode does with the levels of its own slots, part after part."""
    sight = sight_of(mode, levels)
    colour = colour_of(sight)
    strongest = max(colour)
    if sight.running:
        return Seen(
            mode, levels, colour if strongest else OWN_SHOW.colour, f"own program: {sight.running}"
        )
    if not strongest or sight.intensity <= 0:
        moved = _moves(sight)
        return Seen(mode, levels, (0, 0, 0), moved or "dark")
    scale = sight.intensity * 255 / strongest
    shown = (round(colour[0] * scale), round(colour[1] * scale), round(colour[2] * scale))
    return Seen(mode, levels, shown, "flashes" if sight.flashing else "lit")


def _moves(sight: Sight) -> str:
    """What it does in the dark: a relay that is on, an output that turns."""
    return next((words for function, words in sight.doings if function is Function.OUTPUT), "")
