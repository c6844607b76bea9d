"""The Lines page, and every step on a line."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.mends import apply_mend, mends_for
from fence.core.checks import analyse
from fence.core.edits.prose import describe
from fence.core.model.calling import ACCEPTED, called
from fence.core.model.errors import EditError
from fence.core.model.line import Cable, Device, Plug, Power, Source
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.model.wiring import wiring_of
from fence.store.shows import SavedShow
from fence.web.address.rails import WIDE, asked_rails
from fence.web.frame import Frame, frame
from fence.web.lines.forms import LineStep, Shown
from fence.web.lines.page import LinesPage, lines_page
from fence.web.metres import metres
from fence.web.pages import ids_in, load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("lines", __name__, url_prefix="/shows/<int:show_id>/lines")

ON_A_DESK, ON_A_PHONE = 8, 3
"""Stops in a row of the picture."""
MOST_LENGTHS = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesIndex(Showing):
    """What is shown by ``lines/index.html``."""

    template = "lines/index.html"
    frame: Frame
    saved: SavedShow
    page: LinesPage
    cables: list[Cable]
    plugs: list[Plug]
    devices: list[Device]
    powers: list[Power]


@blueprint.get("")
def index(show_id: int) -> str:
    """All lines as pictures; what is picked beside them."""
    saved = load(show_id)
    shown = Shown.linked()
    line_id, name = shown.line.data, shown.name.data
    if line_id is None and (
        named := next((line for line in saved.show.lines if line.name == name), None)
    ):
        line_id = named.id
    columns = ON_A_DESK if asked_rails() == WIDE else ON_A_PHONE
    page = lines_page(saved.show, saved.analysis, columns, line_id, shown.stop.data)
    return LinesIndex(
        frame=frame(saved, "Lines"),
        saved=saved,
        page=page,
        cables=list(Cable),
        plugs=[plug for plug in Plug if plug is not Plug.WIRELESS],
        devices=[
            Device.SPLITTER,
            Device.TRANSMITTER,
            Device.ADAPTER,
            Device.COUPLER,
            Device.TESTER,
        ],
        powers=list(Power),
    ).rendered()


@blueprint.post("/step/<what>")
def take(show_id: int, what: str) -> BaseResponse:
    """Do a step on a line and show what came of it."""
    if what not in STEPS:
        raise EditError("Say what to do with the line.")
    before = load_for_edit(show_id)
    form = LineStep.sent().checked()
    after = STEPS[what](before.show, form)
    save(before, after)
    flash(describe(before.show, after) or "Nothing to change.")
    line_id = form.line.data
    if line_id not in after.line_by_id:
        new = [line.id for line in after.lines if line.id not in before.show.line_by_id]
        line_id = new[0] if len(new) == 1 else 0
    stop = form.stop.data
    if what == "move" and (to_line := form.to_line.data) and to_line != line_id:
        line_id, stop = to_line, max((held.id for held in after.line(to_line).stops), default=0)
    if what in ("earlier", "later"):  # the place stays, what stands there goes along
        wiring = wiring_of(before.show.line(line_id))
        stop = (wiring.by_id[stop].after or 0) if what == "earlier" else wiring.children[stop][0].id
    kept: dict[str, Any] = {"line": line_id} if line_id else {}
    if line_id and stop in wiring_of(after.line(line_id)).by_id:
        kept["stop"] = stop
    return redirect(
        url_for(
            "lines.index", show_id=show_id, _anchor=f"line-{line_id}" if line_id else None, **kept
        )
    )


def _add(show: Show, form: LineStep) -> Show:
    return edits.add_line(show, form.name.data[:200], form.universe.data or None)


def _name(show: Show, form: LineStep) -> Show:
    line_id = form.line.data
    name = form.name.data
    if any(line.name == name.strip() and line.id != line_id for line in show.lines):
        raise EditError(f"There is a line “{name.strip()[:60]}” already: names tell lines apart.")
    return edits.rename_line(show, line_id, name, form.universe.data or None)


def _start(show: Show, form: LineStep) -> Show:
    """At which port the line starts, as ``box:port``; nothing for nobody knows."""
    box, _, port = form.start.data.partition(":")
    numbers = whole_number(box), whole_number(port)
    if not box:
        return edits.start_line(show, form.line.data, None)
    if numbers[0] is None or numbers[1] is None:
        raise EditError("Choose a port from the list, or leave open where the line starts.")
    return edits.start_line(show, form.line.data, Source(numbers[0], numbers[1]))


def _chain(show: Show, form: LineStep) -> Show:
    """Hang on what was chosen: fixtures by id, or by label and number as typed."""
    ids = list(ids_in(",".join(form.fixtures.data)))
    ids += called(show, form.typed.data)
    if not ids:
        raise EditError(f"Say which fixtures: tick them, or type them. {ACCEPTED}")
    return edits.chain(
        show, form.line.data, list(dict.fromkeys(ids)), after=form.after.data or None
    )


def _insert(show: Show, form: LineStep) -> Show:
    if form.device.data is None:
        raise EditError("Say which device to put in.")
    stop = form.stop.data or None
    return edits.insert(
        show,
        form.line.data,
        form.device.data,
        before=stop if form.where.data == "before" else None,
        after=None if form.where.data == "before" else stop,
        label=form.label.data,
        outputs=form.outputs.data or None,
        boosted=not form.passive.data,
    )


def _cable_run(show: Show, form: LineStep) -> Show:
    """The length and the make of the cable run to a stop."""
    line_id, stop = form.line.data, form.stop.data
    near, far = form.near.data, form.far.data
    if form.cable.data is None:
        raise EditError("Say what the cable is: dmx, network, microphone or wireless.")
    plugs = (near, far) if near is not None and far is not None else None
    show = edits.set_cable_runs(show, line_id, {stop: metres(form.length.data)})
    return edits.set_cable(show, line_id, [stop], form.cable.data, plugs)


def _lengths(show: Show, form: LineStep) -> Show:
    """Lengths along the row: one for all cable runs, or one after the other; ``-`` for one that is
    not known."""
    line = show.line(form.line.data)
    words = form.lengths.data.replace(";", ",").split(",")[:MOST_LENGTHS]
    typed = [metres(word) for word in words if word.strip()]
    if not typed:
        raise EditError(
            "Type a length in metres, such as 8, or one for each cable run: 24, 3, 3, 3."
        )
    stops = [
        stop
        for stop in wiring_of(line).behind(None)
        if not stop.terminates and stop.cable is not Cable.WIRELESS
    ]
    if len(typed) > len(stops):
        raise EditError(
            f"{line.name} has {len(stops)} cable runs; {len(typed)} lengths were typed."
        )
    if len(typed) == 1:
        typed *= len(stops)
    return edits.set_cable_runs(
        show, line.id, {stop.id: length for stop, length in zip(stops, typed, strict=False)}
    )


def _device(show: Show, form: LineStep) -> Show:
    """What the picked device or receiver is like."""
    return edits.set_device(
        show,
        form.line.data,
        form.stop.data,
        link=form.link.data,
        outputs=form.outputs.data or None,
        boosted=not form.passive.data,
        rdm=not form.no_rdm.data,
        power=form.power.data,
        hours=form.hours.data,
        sign=form.sign.data,
        label=form.label.data if form.label.raw_data else None,
    )


def _move(show: Show, form: LineStep) -> Show:
    """Take the stop to another place: behind a stop that was dropped on, or that is named by its
    post."""
    line_id, to_line, after = form.line.data, form.to_line.data, form.to.data
    return edits.move_stop(show, line_id, form.stop.data, to_line or line_id, after or None)


def _mend(show: Show, form: LineStep) -> Show:
    """Take a mend that a finding offered, by its key and its words."""
    finding = analyse(show).by_key.get(form.finding.data)
    mends = (
        [mend for mend in mends_for(show, finding) if mend.text == form.mend.data]
        if finding
        else []
    )
    if not mends:
        raise EditError("That finding is not there any more: look at the line again.")
    return apply_mend(show, mends[0])


STEPS: dict[str, Callable[[Show, LineStep], Show]] = {
    "add": _add,
    "name": _name,
    "start": _start,
    "remove": lambda show, form: edits.remove_line(show, form.line.data),
    "chain": _chain,
    "insert": _insert,
    "device": _device,
    "move": _move,
    "run": _cable_run,
    "lengths": _lengths,
    "mend": _mend,
    "terminate": lambda show, form: edits.terminate(show, form.line.data, form.stop.data or None),
    "open": lambda show, form: edits.leave_open(
        show, form.line.data, form.reason.data, form.stop.data or None
    ),
    "off": lambda show, form: edits.take_off(show, form.line.data, [form.stop.data]),
    "earlier": lambda show, form: edits.step_along(show, form.line.data, form.stop.data, -1),
    "later": lambda show, form: edits.step_along(show, form.line.data, form.stop.data, 1),
    "branch": lambda show, form: edits.move_branch(
        show, form.line.data, form.stop.data, form.to.data or None
    ),
    "join": lambda show, form: edits.join(show, form.line.data, form.other.data),
}
