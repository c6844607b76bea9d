"""Faders with names: each channel of a fixture with its function, its ranges as marks, in percent
and 0 to 255."""

from __future__ import annotations

from dataclasses import dataclass, replace

from flask import Blueprint, make_response, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.address import SLOTS
from fence.core.model.calling import called
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Byte, Channel, Function
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.simulation.practice import seen_of
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import asked_by_htmx, load
from fence.web.prove.forms import FadersEither, FadersStep
from fence.web.prove.page import hexed, order, universes_of
from fence.web.prove.sending import send, sender
from fence.web.showing import Showing

blueprint = Blueprint("faders", __name__, url_prefix="/shows/<int:show_id>/prove/faders")

EASED = {
    Function.PAN,
    Function.TILT,
    Function.ZOOM,
    Function.FOCUS,
    Function.IRIS,
    Function.GOBO_ROTATION,
}
"""Functions that move something: they go to a new level by steps."""
FULL = 65535
A_ROW = 16
"""Slots of a row of the table."""


@dataclass(frozen=True, slots=True)
class Fader:
    """One value of a fixture: over one slot, or over two as one of 16 bits. ``level`` runs from 0
    to ``highest``.

    ``others`` are the slots of further cells that go with it.
    """

    name: str
    slots: tuple[int, ...]
    universe: int
    channel: Channel
    level: int
    highest: int
    others: tuple[tuple[int, ...], ...] = ()

    @property
    def percent(self) -> int:
        """As most displays cut it."""
        return 100 * self.level // self.highest

    @property
    def now(self) -> str:
        """What its range means at this level."""
        coarse = self.level if self.highest == 255 else self.level // 256
        found = next((one for one in self.channel.ranges if one.first <= coarse <= one.last), None)
        return found.meaning if found else ""

    @property
    def key(self) -> str:
        """How a form names it."""
        return f"{self.universe}.{'.'.join(map(str, self.slots))}"


def faders_of(show: Show, fixture: Fixture, levels: dict[int, bytes]) -> list[Fader]:
    """The faders of a fixture, part after part; a coarse and the fine byte that follows it are
    one."""
    mode = show.mode_of(fixture)
    found: list[Fader] = []
    for part, entry in zip(mode.parts if mode else (), fixture.patch, strict=False):
        if entry.universe is None or entry.slot is None:
            continue
        frame_now = levels.get(entry.universe, b"").ljust(SLOTS, b"\0")
        skip = False
        for place, channel in enumerate(part.channels):
            slot = entry.slot + place
            if skip or slot > SLOTS:
                skip = False
                continue
            after = part.channels[place + 1] if place + 1 < len(part.channels) else None
            paired = (
                channel.byte is Byte.COARSE
                and after is not None
                and slot < SLOTS
                and (after.byte, after.function, after.cell)
                == (Byte.FINE, channel.function, channel.cell)
            )
            slots = (slot, slot + 1) if paired else (slot,)
            level = frame_now[slot - 1] * 256 + frame_now[slot] if paired else frame_now[slot - 1]
            found.append(
                Fader(channel.title, slots, entry.universe, channel, level, FULL if paired else 255)
            )
            skip = paired
    return found


def _levels(show_id: int, show: Show) -> dict[int, bytes]:
    """What is sent now, for every universe of the show."""
    now = sender().now
    held = sender().levels if now is not None and now.show_id == show_id else {}
    return {universe: held.get(universe, bytes(SLOTS)) for universe in universes_of(show)}


def together(found: list[Fader]) -> list[Fader]:
    """The same with the cells of a fixture together: one fader for what all cells can do, at the
    level of the first."""
    merged: list[Fader] = []
    place: dict[tuple[object, ...], int] = {}
    for one in found:
        key = (one.universe, one.channel.function, one.channel.byte, one.channel.name, one.highest)
        if one.channel.cell is None:
            merged.append(one)
        elif key in place:
            held = merged[place[key]]
            merged[place[key]] = replace(held, others=(*held.others, one.slots))
        else:
            place[key] = len(merged)
            merged.append(one)
    return [_named_for_all(one) for one in merged]


def _named_for_all(one: Fader) -> Fader:
    if not one.others:
        return one
    return replace(
        one, name=f"all {len(one.others) + 1} cells {replace(one.channel, cell=None).title}"
    )


def _shown(
    show: Show, fixture: Fixture, levels: dict[int, bytes]
) -> tuple[list[Fader], bool, bool]:
    """The faders as they are asked for, whether cells are together, and whether there are several
    at all."""
    asked = FadersEither.either()
    found = faders_of(show, fixture, levels)
    several = len({one.channel.cell for one in found} - {None}) > 1
    joined = several and asked.cells.data != "each"
    return together(found) if joined else found, joined, several


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveFaders(Showing):
    """What is shown by ``prove/_faders.html``."""

    template = "prove/_faders.html"
    frame: Frame
    saved: SavedShow
    fixtures: list[Fixture]
    current: Fixture | None
    faders: list[Fader]
    joined: bool
    several: bool
    remark: str
    light: str


class ProveFadersPage(ProveFaders):
    """The same as a page."""

    template = "prove/faders.html"


@blueprint.get("")
def index(show_id: int) -> str:
    """The faders of one fixture."""
    asked = FadersEither.either()
    saved = load(show_id)
    fixtures = order(saved.show)
    words = asked.fixture_called.data
    named = called(saved.show, words)[0] if words else asked.fixture.data
    fixture = next((one for one in fixtures if one.id == named), fixtures[0] if fixtures else None)
    levels = _levels(show_id, saved.show)
    faders, joined, several = _shown(saved.show, fixture, levels) if fixture else ([], False, False)
    shown = ProveFaders if asked_by_htmx() else ProveFadersPage
    return shown(
        frame=frame(saved, "Prove"),
        saved=saved,
        fixtures=fixtures,
        current=fixture,
        faders=faders,
        joined=joined,
        several=several,
        remark=_remark(faders),
        light=_light(saved.show, fixture, levels),
    ).rendered()


def _light(show: Show, fixture: Fixture | None, levels: dict[int, bytes]) -> str:
    """The colour that the planned mode would give at these levels."""
    mode = show.mode_of(fixture) if fixture else None
    if fixture is None or mode is None:
        return ""
    heard = b"".join(
        levels.get(entry.universe or 0, bytes(SLOTS))[(entry.slot or 1) - 1 :][
            : part.footprint
        ].ljust(part.footprint, b"\0")
        for part, entry in zip(mode.parts, fixture.patch, strict=False)
    )
    return hexed(seen_of(mode, heard))


def _remark(faders: list[Fader]) -> str:
    """Why it is dark though something is up, where that bites."""
    by = {one.channel.function: one for one in faders if one.channel.cell is None}
    colours = [
        one
        for one in faders
        if one.channel.function in (Function.RED, Function.GREEN, Function.BLUE, Function.WHITE)
    ]
    dimmer, shutter = by.get(Function.DIMMER), by.get(Function.SHUTTER)
    if dimmer is not None and not dimmer.level and any(one.level for one in colours):
        return "Colours are up and the dimmer is down: nothing is seen until the dimmer is raised."
    if dimmer is not None and dimmer.level and colours and not any(one.level for one in colours):
        return (
            "The dimmer is up and all colours are at zero: black at full. A desk’s own default "
            "colour does that, too."
        )
    if (
        shutter is not None
        and dimmer is not None
        and dimmer.level
        and shutter.now.lower().startswith(("closed", "shut"))
    ):
        return "The shutter is closed: nothing is seen, whatever else is up."
    return ""


@blueprint.post("")
def take(show_id: int) -> BaseResponse:
    """Send one value, typed or drawn: 0 to 255, or percent."""
    form = FadersStep.sent()
    saved = load(show_id)
    levels = {universe: bytearray(held) for universe, held in _levels(show_id, saved.show).items()}
    fixture = saved.show.fixture(form.fixture.data or 0)
    wanted = {
        one.key: one
        for one in _shown(saved.show, fixture, {u: bytes(f) for u, f in levels.items()})[0]
    }
    fader = wanted.get(form.fader.data)
    if fader is None:
        raise EditError("This fader is not there any more: load the page again.")
    level = _level(form.level.data, fader.highest)
    values = (level // 256, level % 256) if len(fader.slots) == 2 else (level,)
    for slots in (fader.slots, *fader.others):
        for slot, value in zip(slots, values, strict=True):
            levels[fader.universe][slot - 1] = value
    eased = {fader.universe: frozenset(fader.slots[:1])} if fader.channel.function in EASED else {}
    send(saved, {universe: bytes(held) for universe, held in levels.items()}, eased)
    if asked_by_htmx():
        return make_response(index(show_id))
    cells = form.cells.data or None
    return redirect(url_for("faders.index", show_id=show_id, fixture=fixture.id, cells=cells))


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveUniverse(Showing):
    """What is shown by ``prove/universe.html``."""

    template = "prove/universe.html"
    frame: Frame
    saved: SavedShow
    number: int
    universes: list[int]
    rows: list[list[tuple[int, int]]]
    owners: dict[int, str]


@blueprint.get("/universe/<int:number>")
def table(show_id: int, number: int) -> str:
    """The 512 slots of a universe as a table in which levels can be typed."""
    saved = load(show_id)
    known = universes_of(saved.show)
    if number not in known:
        raise EditError(
            f"No fixture is planned in U{number}. Use one of "
            f"{', '.join(map(str, known)) or 'none'}."
        )
    levels = _levels(show_id, saved.show)[number]
    return ProveUniverse(
        frame=frame(saved, "Prove"),
        saved=saved,
        number=number,
        universes=known,
        rows=[
            [(slot, levels[slot - 1]) for slot in range(first, first + A_ROW)]
            for first in range(1, SLOTS, A_ROW)
        ],
        owners=_owners(saved.show, number),
    ).rendered()


def _owners(show: Show, number: int) -> dict[int, str]:
    """Whose slot each is, as planned."""
    found: dict[int, str] = {}
    for placed in show.runs_in(number):
        for slot in range(placed.run.first, min(placed.run.last, SLOTS) + 1):
            found.setdefault(slot, placed.fixture.label)
    return found


@blueprint.post("/universe/<int:number>")
def put(show_id: int, number: int) -> BaseResponse:
    """Send one slot at a level, typed as 0 to 255 or percent."""
    form = FadersStep.sent()
    saved = load(show_id)
    levels = {universe: bytearray(held) for universe, held in _levels(show_id, saved.show).items()}
    slot = form.slot.data or 0
    if number not in levels or not 1 <= slot <= SLOTS:
        raise EditError(
            f"Slot {slot} of U{number} is not there. Use slots 1 to {SLOTS} of the "
            "show’s universes."
        )
    levels[number][slot - 1] = _level(form.level.data, 255)
    send(saved, {universe: bytes(held) for universe, held in levels.items()})
    if asked_by_htmx():
        return make_response("", 204)
    return redirect(url_for("faders.table", show_id=show_id, number=number))


def _level(words: str, highest: int) -> int:
    """A level as typed: ``128``, ``50%``; for 16 bits up to 65535. ``EditError`` says what is
    accepted."""
    words = words.strip()
    if words.endswith("%"):
        percent = whole_number(words[:-1].strip())
        if percent is not None and percent <= 100:
            return -(-highest * percent // 100)
    elif (number := whole_number(words)) is not None and number <= highest:
        return number
    raise EditError(f"“{words[:20]}” is not a level here. Use 0 to {highest}, or 0% to 100%.")
