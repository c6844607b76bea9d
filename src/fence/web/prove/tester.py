"""The tester: what is on the wire, at the practice rig or at an address of this machine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, current_app, request

from fence.core.model.address import SLOTS
from fence.core.model.box import Protocol
from fence.core.model.desk import Scale
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.line import Cable
from fence.core.model.show import Show, slot_meaning
from fence.core.model.text import joined, printable, whole_number
from fence.core.troubleshooting.evidence import Answer, Kind
from fence.core.troubleshooting.told import answer_words
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.prove.forms import TesterLink
from fence.web.prove.page import order
from fence.web.prove.sending import rigs
from fence.web.showing import Showing
from fence.wire.interfaces import interfaces
from fence.wire.receiving import Ear
from fence.work.listening import Listeners

blueprint = Blueprint("tester", __name__, url_prefix="/shows/<int:show_id>/prove/tester")

SECONDS = 1.0
LONGEST_MOMENT = 8 * SLOTS
"""Characters of a moment in an address: a slot, a dot, a level and a dash each."""


@dataclass(frozen=True, slots=True)
class Reading:
    """What a tester reads of one universe: a signal or none, sources with priority, frames a
    second, levels."""

    signal: bool
    sources: tuple[tuple[str, int], ...]
    rate: float
    levels: bytes

    def percent(self, slot: int) -> str:
        """A slot in percent, as tools that cut and tools that round show it."""
        level = self.levels[slot - 1]
        cut, rounded = 100 * level // 255, round(100 * level / 255)
        return f"{cut} %" if cut == rounded else f"{cut} % (cut) or {rounded} % (rounded)"


NOTHING = Reading(False, (), 0.0, bytes(SLOTS))


def at_the_rig(state: dict[str, Any] | None, universe: int | None) -> Reading:
    """What the practice rig hears of a universe."""
    held = (state or {}).get("universes", {}).get(str(universe))
    if not held or not held["levels"]:
        return NOTHING
    levels = bytes.fromhex(held["levels"]).ljust(SLOTS, b"\0")
    sources = tuple((str(name) or "a source", int(priority)) for name, priority in held["sources"])
    return Reading(True, sources, float(held["rate"]), levels)


def _check_own(bind: str) -> None:
    if bind not in {str(one.ip) for one in interfaces()}:
        raise EditError(
            f"“{printable(bind[:40])}” is not an address of this machine: choose one of those "
            "that it has."
        )


def on_the_wire(bind: str, universe: int, protocol: Protocol = Protocol.SACN) -> Reading:
    """What is heard of a universe at an address of this machine, within a second; Art-Net is taken
    to count from 0. Takes that second: not for a page."""
    _check_own(bind)
    ear = Ear(protocol, universe if protocol is Protocol.SACN else universe - 1, bind)
    try:
        ear.listen(SECONDS)
        heard = ear.heard()
    finally:
        ear.close()
    if not heard.any:
        return NOTHING
    sources = tuple((one.name or one.ip, one.priority) for one in heard.sources)
    return Reading(True, sources, heard.frames_per_second, heard.levels)


def as_moment(levels: bytes) -> str:
    """Levels as an address of a page carries them, such as ``65.255-70.12``; ``0`` where all are at
    zero."""
    return "-".join(f"{slot}.{level}" for slot, level in enumerate(levels, 1) if level) or "0"


def of_moment(words: str) -> bytes:
    """The levels that an address of a page carries; whatever is no slot or level is passed over."""
    levels = bytearray(SLOTS)
    for piece in words[:LONGEST_MOMENT].split("-")[:SLOTS]:
        slot, _, level = piece.partition(".")
        at, value = whole_number(slot), whole_number(level)
        if at is not None and value is not None and 1 <= at <= SLOTS and value <= 255:
            levels[at - 1] = value
    return bytes(levels)


def changes(before: bytes, now: bytes) -> list[tuple[int, int, int]]:
    """The slots that are at another level than they were: which, then, now."""
    return [
        (at, old, new)
        for at, (old, new) in enumerate(zip(before, now, strict=True), 1)
        if old != new
    ]


def told(show: Show, reading: Reading, universe: int | None) -> str:
    """What the tell-tale slot says, and whether that is the universe that ought to be here; empty
    without one."""
    tell = show.tell_tale
    if tell is None or not reading.signal:
        return ""
    level = reading.levels[tell.slot - 1]
    number = 100 * level // 255 if tell.scale is Scale.PERCENT else level
    if not number:
        return f"Slot {tell.slot} is at zero: this source does not say which universe it is."
    if number == universe:
        return f"Slot {tell.slot} says {number}: this is U{number}, as it ought to be."
    return f"Slot {tell.slot} says {number}: this is U{number}, and U{universe} ought to be here."


def whose(show: Show, universe: int | None, slot: int) -> str:
    """Who listens at a slot, and with what; empty for nobody."""
    told = []
    for placed in show.runs_in(universe) if universe else ():
        if (
            placed.run.first <= slot <= placed.run.last
            and (mode := show.mode_of(placed.fixture)) is not None
        ):
            meaning = slot_meaning(mode, placed.part, slot - placed.run.first)
            told.append(f"{placed.fixture.label}’s {meaning}")
    return joined(told, most=6, shown=5)


@dataclass(frozen=True, slots=True)
class Keeps:
    """A reading as evidence: the device on a line at which the tester is plugged in, and what it
    reads, both as a form of Troubleshoot sends them."""

    place: str
    reading: str
    words: str


def keeps(
    show: Show, fixture: Fixture | None, carried: int | None, reading: Reading
) -> Keeps | None:
    """A reading of the tester at a fixture of the practice rig as evidence; None where it hangs on
    no cable."""
    for line in show.lines if fixture else ():
        for stop in line.stops:
            if fixture and stop.fixture == fixture.id and stop.cable is not Cable.WIRELESS:
                answer = Answer.SIGNAL if reading.signal else Answer.NO_SIGNAL
                if reading.signal and carried != line.universe:
                    answer = Answer.OTHER_UNIVERSE
                words = answer_words(Kind.TESTER, answer)
                return Keeps(f"stop:{line.id}:{stop.id}", f"{Kind.TESTER}:{answer}", words)
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveTester(Showing):
    """What is shown by ``prove/tester.html``."""

    template = "prove/tester.html"
    frame: Frame
    saved: SavedShow
    fixtures: list[Fixture]
    fixture: Fixture | None
    universes: list[int]
    u: int | None
    slot: int
    reading: Reading
    raised: list[tuple[int, int]]
    told: str
    whose: str
    running: bool
    bind: str
    protocol: Protocol
    moment: str
    since: object
    changed: list[tuple[int, int, int]]
    binds: list[str]
    problem: str
    asked: str
    keeps: Keeps | None
    here: dict[str, Protocol | int | object | None]


@blueprint.get("")
def index(show_id: int) -> str | tuple[str, int]:
    """Read a universe: at a fixture of the practice rig, or on the wire."""
    link = TesterLink.linked()
    saved = load(show_id)
    show = saved.show
    fixtures = order(show)
    bind, since = link.bind.data, link.since.data
    protocol = Protocol.ARTNET if link.protocol.data == "artnet" else Protocol.SACN
    named = link.fixture.data
    fixture = next((one for one in fixtures if one.id == named), None)
    planned = (
        fixture.universe if fixture else link.u.data or (fixtures[0].universe if fixtures else 1)
    )
    slot = min(max(link.slot.data or 1, 1), SLOTS)
    state, problem, reading = rigs().state(saved), "", NOTHING
    asked, kept = "", None
    if bind and planned:
        asked, found, problem = _listen(bind, planned, protocol)
        reading = found or NOTHING
    else:
        carried = _carried(show, state, fixture.id if fixture else None, planned)
        reading = at_the_rig(state, carried)
        # with nothing sent at all, no signal says nothing of a cable
        sent = any(held["levels"] for held in (state or {}).get("universes", {}).values())
        kept = keeps(show, fixture, carried, reading) if sent else None
    body = ProveTester(
        frame=frame(saved, "Prove"),
        saved=saved,
        fixtures=fixtures,
        fixture=fixture,
        universes=sorted({universe for one in fixtures for universe in show.universes_of(one)}),
        u=planned,
        slot=slot,
        reading=reading,
        raised=[(at, level) for at, level in enumerate(reading.levels, 1) if level],
        told=told(show, reading, planned),
        whose=whose(show, planned, slot),
        running=state is not None,
        bind=bind,
        protocol=protocol,
        moment=as_moment(reading.levels),
        since=since,
        changed=changes(of_moment(since), reading.levels) if since else [],
        binds=[str(one.ip) for one in interfaces()],
        problem=problem,
        asked=asked,
        keeps=kept,
        here={
            "u": planned,
            "slot": slot,
            "fixture": fixture.id if fixture else None,
            "bind": bind or None,
            "protocol": protocol,
            "since": since or None,
        },
    ).rendered()
    return (body, 422) if problem else body


def _listen(bind: str, universe: int, protocol: Protocol) -> tuple[str, Reading | None, str]:
    """What is heard at an address of this machine: the name of the listener while it listens, what
    it heard, and what was in the way. The page that follows names the listener that it waits for;
    without one a new one begins."""
    link = TesterLink.linked()
    listeners: Listeners[Reading] = current_app.extensions["fence_listeners"]
    found = listeners.of(link.asked.data)
    if found is None:
        try:
            _check_own(bind)
            return listeners.begin(lambda: on_the_wire(bind, universe, protocol)), None, ""
        except FenceError as error:
            return "", None, str(error)
    return (request.args["asked"], None, "") if not found.over else ("", found.heard, found.problem)


def _carried(
    show: Show, state: dict[str, Any] | None, fixture_id: int | None, planned: int | None
) -> int | None:
    """The universe that a cable of the practice rig carries where a fixture hangs on it."""
    if fixture_id is None or state is None:
        return planned
    heard = state.get("fixtures", {}).get(str(fixture_id), {}).get("universe", planned)
    return int(heard) if heard is not None else None
