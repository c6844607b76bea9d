"""What each check would answer if a cause were so: read off the practice rig with that fault on it.

An answer is foreseen with its probability, since some troubles come and go and some answers are a
matter of luck. What a cause does not touch is answered as if nothing were wrong.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from fence.core.model.address import SLOTS
from fence.core.model.box import BoxKind
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable, Line, Stop
from fence.core.model.network import given_by, number_on, said_by
from fence.core.model.profile import SetterKind
from fence.core.model.show import Show
from fence.core.model.wiring import Wiring
from fence.core.simulation.bringing import levels_for, put_in
from fence.core.simulation.faults import OF_A_RUN, Fault, Trouble
from fence.core.simulation.practice import Frames, Kept, PracticeRig, Seen, Signal
from fence.core.troubleshooting.evidence import Answer, Check, Kind

Foreseen = dict[tuple[Answer, str], float]
"""How likely each answer is, with its value where it has one."""

MOST_KNOWN = 200_000
"""Answers that are kept; beyond that all are worked out anew."""
OFTEN, MOSTLY, EVEN = 0.9, 0.75, 0.5
UNLIT = 0.3
"""How likely it is that a display is read that should be dark: some have a battery of their own."""
ELSEWHERE = 1 / SLOTS
"""How likely it is that any other address is a certain one."""
MOVING = {
    Trouble.WRONG_ADDRESS,
    Trouble.WRONG_MODE,
    Trouble.WRONG_UNIVERSE,
    Trouble.OFF_BY_ONE,
}
"""Troubles by which a fixture may answer to what is meant for another one."""


class Foresight:
    """A show, and what each check of it would answer under each cause."""

    def __init__(self, show: Show) -> None:
        self.show = show
        self.kept = Kept()
        self.at_ease = PracticeRig(show, (), self.kept)
        self._rigs: dict[tuple[Fault, ...], PracticeRig] = {(): self.at_ease}
        self.silence: Frames = dict.fromkeys(show.carried, bytes(SLOTS))
        self._frames: dict[int, Frames] = {}
        self._usual: dict[int, Seen] = {}
        self._known: dict[tuple[Check, tuple[Fault, ...]], Foreseen] = {}

    @cached_property
    def ways(self) -> dict[int, list[tuple[Line, Stop]]]:
        """The lines on which each fixture hangs, and where."""
        found: dict[int, list[tuple[Line, Stop]]] = {}
        for line in self.show.lines:
            for stop in line.stops:
                if stop.fixture is not None:
                    found.setdefault(stop.fixture, []).append((line, stop))
        return found

    @cached_property
    def line_by_name(self) -> dict[str, Line]:
        """The lines by name."""
        return {line.name: line for line in self.show.lines}

    @cached_property
    def box_by_name(self) -> dict[str, int]:
        """The ids of nodes by name."""
        return {box.name: box.id for box in self.show.boxes}

    def wiring(self, name: str) -> Wiring:
        """The tree of a line."""
        return self.kept.wiring(self.line_by_name[name])

    @cached_property
    def on_port(self) -> dict[tuple[str, int], list[Line]]:
        """The lines that start at each port of a node."""
        found: dict[tuple[str, int], list[Line]] = {}
        for line in self.show.lines:
            box = self.show.box_by_id.get(line.source.box) if line.source else None
            if box is not None and line.source is not None:
                found.setdefault((box.name, line.source.port), []).append(line)
        return found

    def rig(self, faults: tuple[Fault, ...]) -> PracticeRig:
        """The rig with these faults on it."""
        found = self._rigs.get(faults)
        if found is None:
            found = self._rigs[faults] = PracticeRig(self.show, faults, self.kept)
        return found

    def foreseen(self, check: Check, faults: tuple[Fault, ...]) -> Foreseen:
        """What a check would answer under some faults at once; none of them for all in order."""
        key = check, faults
        found = self._known.get(key)
        if found is None:
            if len(self._known) >= MOST_KNOWN:
                self._known.clear()
                self._rigs = {(): self.at_ease}
            found = self._known[key] = self._foresee(check, faults)
        return found

    def _foresee(self, check: Check, faults: tuple[Fault, ...]) -> Foreseen:
        match check.kind:
            case Kind.LOOK:
                return self._look(check.fixture, faults)
            case Kind.TESTER:
                return self._tester(check, faults)
            case Kind.SWAP:
                helps = any(
                    fault.trouble in OF_A_RUN
                    and (fault.line, fault.stop) == (check.line, check.stop)
                    for fault in faults
                )
                return sure(Answer.HELPS if helps else Answer.NO_CHANGE)
            case Kind.NODE:
                return self._node(check, faults)
            case Kind.DESK:
                black = any(fault.trouble is Trouble.BLACKOUT for fault in faults)
                return sure(Answer.BLACKOUT if black else Answer.SENDS)
        return self._at_fixture(check, faults)

    def _at_fixture(self, check: Check, faults: tuple[Fault, ...]) -> Foreseen:
        fixture = self.show.fixture(check.fixture)
        stand = self.rig(faults).stand_of(fixture)
        if check.kind is Kind.POWER:
            return sure(Answer.ON if stand.powered else Answer.OFF)
        if check.kind is Kind.LISTENS:
            if stand.own_program:
                return {(Answer.NO, ""): EVEN, (Answer.YES, ""): EVEN}
            return sure(Answer.YES if stand.listens else Answer.NO)
        if check.kind is Kind.DISPLAY:
            anywhere = any(
                fault.trouble is Trouble.WRONG_ADDRESS
                and fault.fixture == fixture.id
                and not fault.value
                for fault in faults
            )
            mode = stand.mode.name if stand.mode else ""
            address = str(stand.starts[0] or "")
            share = 1.0 if stand.powered or self.has_switches(fixture) else UNLIT
            return {
                (Answer.SAYS, "" if anywhere else address): share,
                (Answer.MODE, mode): share,
            }
        return self._rdm(fixture, faults)

    def _rdm(self, fixture: Fixture, faults: tuple[Fault, ...]) -> Foreseen:
        rig = self.rig(faults)
        stand, signals = rig.stand_of(fixture), rig.reaching(fixture, self.ways.get(fixture.id, ()))
        if not stand.powered or all(signal.universe is None for signal in signals):
            return sure(Answer.SILENT)
        if not stand.listens:
            return {(Answer.ANSWERS, ""): EVEN, (Answer.SILENT, ""): EVEN}
        if any(not signal.clean for signal in signals):
            return {(Answer.ANSWERS, ""): EVEN, (Answer.SILENT, ""): EVEN}
        return sure(Answer.ANSWERS)

    def _tester(self, check: Check, faults: tuple[Fault, ...]) -> Foreseen:
        line = self.line_by_name[check.line]
        signal = self.rig(faults).arriving(line).get(check.stop, Signal(None))
        if signal.garbled:
            return {(Answer.ERRORS, ""): MOSTLY, (Answer.NO_SIGNAL, ""): 1 - MOSTLY}
        if signal.universe is None:
            return sure(Answer.NO_SIGNAL)
        if not signal.clean:
            return {(Answer.ERRORS, ""): OFTEN, (Answer.SIGNAL, ""): 1 - OFTEN}
        usual = self.at_ease.arriving(line).get(check.stop, Signal(None))
        if signal.universe not in (line.universe, usual.universe):
            if signal.universe in self.show.carried:
                return sure(Answer.OTHER_UNIVERSE)
            # nobody sends that one: some nodes give zeros out then, and some nothing
            return {(Answer.OTHER_UNIVERSE, ""): EVEN, (Answer.NO_SIGNAL, ""): EVEN}
        if any(
            fault.trouble is Trouble.NOT_SENT and fault.value == str(signal.universe)
            for fault in faults
        ):
            return {(Answer.NO_SIGNAL, ""): EVEN, (Answer.SIGNAL, ""): EVEN}
        return sure(Answer.SIGNAL)

    def _node(self, check: Check, faults: tuple[Fault, ...]) -> Foreseen:
        box = self.show.box(self.box_by_name[check.box])
        port = box.port(check.port)
        if port is None or any(
            fault.trouble is Trouble.PORT_OFF and (fault.box, fault.port) == (box.name, port.number)
            for fault in faults
        ):
            return sure(Answer.OFF)
        moved = [fault for fault in faults if fault.trouble in MOVING and fault.box == box.name]
        given = self.rig(tuple(moved)).given(box, port)
        if given is None:
            says = said_by(box, port)
            return sure(Answer.OFF) if says is None else sure(Answer.SAYS, str(says))
        wrong = [fault for fault in moved if fault.trouble is Trouble.WRONG_UNIVERSE]
        if any(fault.port in (None, port.number) for fault in wrong):
            return {(Answer.SAYS, ""): 1.0}
        return sure(Answer.SAYS, str(number_on(box, given)))

    def _look(self, fixture_id: int, faults: tuple[Fault, ...]) -> Foreseen:
        """A fixture is brought up alone, in open white where the plan has it."""
        fixture = self.show.fixture(fixture_id)
        frames = self.frames_for(fixture)
        rig, usual = self.rig(faults), self.should_look(fixture_id)
        if _is_anywhere(faults, fixture_id):
            return self._from_anywhere(fixture)
        seen = self._seen(rig, fixture, frames)
        others = [
            str(other.id)
            for other in self._moved(rig, faults, fixture, frames)
            if self._lit(rig, other, frames)
        ]
        moved = bool(others)
        if not seen.lit:
            others += [str(other.id) for other in self._sharing(rig, fixture, frames)]
        found: Foreseen
        if not seen.lit or (usual.lit and seen.state == "dark"):
            # who shares an address lights up beside it: some say that, and some that it is dark
            share = OFTEN if moved else EVEN
            found = {(Answer.ANOTHER, other): share / len(others) for other in others}
            found[Answer.DARK, ""] = 1 - share if others else 1.0
        elif seen.state.startswith("own program"):
            found = sure(Answer.OWN_PROGRAM)
        else:
            same = (seen.colour, seen.state) == (usual.colour, usual.state)
            answer = Answer.RIGHT if same else Answer.OTHER_COLOUR
            found = {(answer, ""): EVEN if others else 1.0}
            found |= {(Answer.ANOTHER, other): EVEN / len(others) for other in others}
        if seen.flickers:
            found = {key: share * (1 - MOSTLY) for key, share in found.items()}
            found[Answer.FLICKER, ""] = MOSTLY
        return found

    def _sharing(self, rig: PracticeRig, fixture: Fixture, frames: Frames) -> Iterator[Fixture]:
        """Those that share its address by declaration, and light up with it."""
        for other in self.show.sharers_of(fixture):
            if other.id != fixture.id and self._seen(rig, other, frames).lit:
                yield other

    def _from_anywhere(self, fixture: Fixture) -> Foreseen:
        """It stands at any address but those that are thought of by themselves: it mostly takes
        nothing from the levels that are up, sometimes a part of them."""
        mode = self.show.mode_of(fixture)
        part = min(0.3, 2 * (mode.footprint if mode else 1) * ELSEWHERE)
        return {(Answer.DARK, ""): 1 - part, (Answer.OTHER_COLOUR, ""): part}

    def _hears(self, rig: PracticeRig, name: str, number: int, frames: Frames) -> bool:
        """Whether a port gives out one of these universes."""
        box = self.show.box(self.box_by_name[name])
        port = box.port(number)
        return port is not None and rig.given(box, port) in frames

    def _moved(
        self, rig: PracticeRig, faults: tuple[Fault, ...], fixture: Fixture, frames: Frames
    ) -> Iterator[Fixture]:
        """The others that may answer to what is sent to a fixture."""
        for fault in faults:
            if fault.trouble not in MOVING:
                continue
            if fault.fixture is not None:
                if fault.fixture != fixture.id:
                    yield self.show.fixture(fault.fixture)
                continue
            for (box, port), lines in self.on_port.items():
                if box == fault.box and fault.port in (None, port):
                    for line in lines if self._hears(rig, box, port, frames) else ():
                        for stop in line.stops:
                            if stop.fixture not in (None, fixture.id):
                                yield self.show.fixture(stop.fixture or 0)

    def _lit(self, rig: PracticeRig, fixture: Fixture, frames: Frames) -> bool:
        lit = self._seen(rig, fixture, frames).lit
        return lit and not self._seen(self.at_ease, fixture, frames).lit

    def _seen(self, rig: PracticeRig, fixture: Fixture, frames: Frames) -> Seen:
        return rig.seen_at(fixture, frames, self.ways.get(fixture.id, ()))

    def should_look(self, fixture_id: int) -> Seen:
        """What is seen of a fixture that is brought up while nothing is wrong."""
        found = self._usual.get(fixture_id)
        if found is None:
            fixture = self.show.fixture(fixture_id)
            found = self._seen(self.at_ease, fixture, self.frames_for(fixture))
            self._usual[fixture_id] = found
        return found

    def frames_for(self, fixture: Fixture) -> Frames:
        """The levels that bring it up alone where the plan has it, all else at zero."""
        found = self._frames.get(fixture.id)
        if found is None:
            found = self._frames[fixture.id] = self._frames_for(fixture)
        return found

    def _frames_for(self, fixture: Fixture) -> Frames:
        mode = self.show.mode_of(fixture)
        if mode is None:
            return self.silence
        frames = {
            entry.universe: bytearray(SLOTS)
            for entry in fixture.patch
            if entry.universe is not None
        }
        put_in(frames, fixture, mode, levels_for(mode))
        return {**self.silence, **{universe: bytes(frame) for universe, frame in frames.items()}}

    def can_look(self, fixture: Fixture) -> bool:
        """Whether anything is seen of it when it is brought up while nothing is wrong."""
        mode = self.show.mode_of(fixture)
        planned = mode is not None and all(
            entry.slot is not None and entry.universe is not None
            for part, entry in zip(mode.parts, fixture.patch, strict=False)
            if part.footprint
        )
        return planned and self.should_look(fixture.id).lit

    def has_switches(self, fixture: Fixture) -> bool:
        """Whether its address is on switches, which are read without power as well."""
        profile = self.show.profile_of(fixture)
        return profile is not None and profile.setter.kind is not SetterKind.MENU

    def can_read(self, fixture: Fixture) -> bool:
        """Whether an address can be read at it."""
        profile = self.show.profile_of(fixture)
        return profile is not None and profile.setter.kind not in (
            SetterKind.FIXED,
            SetterKind.RDM,
        )

    def can_ask(self, fixture: Fixture) -> bool:
        """Whether it can be asked over RDM: it speaks it, and all on the way pass it on."""
        profile = self.show.profile_of(fixture)
        ways = self.ways.get(fixture.id, [])
        if profile is None or not profile.rdm or not ways:
            return False
        line, stop = ways[0]
        path = self.wiring(line.name).path_to(stop.id)
        return all(held.rdm and held.cable is not Cable.WIRELESS for held in path)

    def nodes(self) -> Iterator[tuple[str, int]]:
        """The ports of nodes that give a universe out."""
        for box in self.show.boxes:
            if box.kind is BoxKind.NODE:
                for port in box.outputs:
                    if given_by(box, port) is not None:
                        yield box.name, port.number


def sure(answer: Answer, value: str = "") -> Foreseen:
    """Only this."""
    return {(answer, value): 1.0}


def _is_anywhere(faults: tuple[Fault, ...], fixture_id: int) -> bool:
    return any(
        fault.trouble is Trouble.WRONG_ADDRESS and fault.fixture == fixture_id and not fault.value
        for fault in faults
    )
