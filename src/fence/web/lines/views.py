"""The Lines page, and every step on a line."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.mends import apply_mend, mends_for
from fence.core.checks import analyse
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError
from fence.core.model.line import Cable, Device, Plug, Power, Source
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.model.wiring import wiring_of
from fence.web.address.rails import WIDE, asked_rails
from fence.web.frame import frame
from fence.web.lines.page import lines_page
from fence.web.metres import metres
from fence.web.pages import ids_in, load, load_for_edit, save

blueprint = Blueprint("lines", __name__, url_prefix="/shows/<int:show_id>/lines")

ON_A_DESK, ON_A_PHONE = 8, 3
"""Stops in a row of the picture."""
MOST_LENGTHS = 2000


@blueprint.get("")
def index(show_id: int) -> str:
    """All lines as pictures; what is picked beside them."""
    saved = load(show_id)
    line_id = request.args.get("line", type=int)
    name = request.args.get("name")
    if line_id is None and (
        named := next((line for line in saved.show.lines if line.name == name), None)
    ):
        line_id = named.id
    columns = ON_A_DESK if asked_rails() == WIDE else ON_A_PHONE
    page = lines_page(
        saved.show, saved.analysis, columns, line_id, request.args.get("stop", type=int)
    )
    return render_template(
        "lines/index.html",
        frame=frame(saved, "Lines"),
        saved=saved,
        page=page,
        cables=list(Cable),
        plugs=[plug for plug in Plug if plug is not Plug.AIR],
        devices=[Device.SPLITTER, Device.SENDER, Device.ADAPTER, Device.COUPLER, Device.TESTER],
        powers=list(Power),
    )


@blueprint.post("/step/<what>")
def take(show_id: int, what: str) -> BaseResponse:
    """Do a step on a line and show what came of it."""
    if what not in STEPS:
        raise EditError("Say what to do with the line.")
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    after = STEPS[what](before.show)
    save(before, after)
    flash(describe(before.show, after) or "Nothing to change.")
    line_id = _line_id()
    if line_id not in after.line_by_id:
        new = [line.id for line in after.lines if line.id not in before.show.line_by_id]
        line_id = new[0] if len(new) == 1 else 0
    stop = _number("stop")
    if what == "move" and (to_line := _number("to_line")) and to_line != line_id:
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


def _number(name: str) -> int:
    return whole_number(request.form.get(name, "")) or 0


def _line_id() -> int:
    return _number("line")


def _add(show: Show) -> Show:
    return edits.add_line(show, request.form.get("name", "")[:200], _number("universe") or None)


def _name(show: Show) -> Show:
    line_id = _line_id()
    name = request.form.get("name", "")
    if any(line.name == name.strip() and line.id != line_id for line in show.lines):
        raise EditError(f"There is a line “{name.strip()[:60]}” already: names tell lines apart.")
    return edits.rename_line(show, line_id, name, _number("universe") or None)


def _start(show: Show) -> Show:
    """At which port the line starts, as ``box:port``; nothing for nobody knows."""
    box, _, port = request.form.get("start", "").partition(":")
    numbers = whole_number(box), whole_number(port)
    if not box:
        return edits.start_line(show, _line_id(), None)
    if numbers[0] is None or numbers[1] is None:
        raise EditError("Choose a port from the list, or leave open where the line starts.")
    return edits.start_line(show, _line_id(), Source(numbers[0], numbers[1]))


def _chain(show: Show) -> Show:
    """Hang on what was chosen: fixtures by id, or by label and number as typed."""
    ids = list(ids_in(",".join(request.form.getlist("fixtures"))))
    typed = request.form.get("typed", "").strip()
    ids += [_called(show, piece.strip()) for piece in typed[:2000].split(",") if piece.strip()]
    if not ids:
        raise EditError(
            "Say which fixtures: tick them, or type labels or numbers with commas between them."
        )
    return edits.chain(show, _line_id(), list(dict.fromkeys(ids)), after=_number("after") or None)


def _called(show: Show, name: str) -> int:
    number = whole_number(name)
    found = [
        f
        for f in show.fixtures
        if f.label.casefold() == name.casefold() or number == f.number is not None
    ]
    if len(found) != 1:
        raise EditError(
            f"{'Several fixtures are' if found else 'No fixture is'} called “{name[:60]}”."
        )
    return found[0].id


def _insert(show: Show) -> Show:
    device = request.form.get("device", "")
    if device not in set(Device):
        raise EditError("Say which device to put in.")
    stop = _number("stop") or None
    return edits.insert(
        show,
        _line_id(),
        Device(device),
        before=stop if request.form.get("where") == "before" else None,
        after=None if request.form.get("where") == "before" else stop,
        label=request.form.get("label", "").strip()[:200],
        outputs=_number("outputs") or None,
        boosted=not request.form.get("passive"),
    )


def _hop(show: Show) -> Show:
    """The length and the make of the hop to a stop."""
    line_id, stop = _line_id(), _number("stop")
    cable, near, far = (request.form.get(name, "") for name in ("cable", "near", "far"))
    if cable not in set(Cable):
        raise EditError("Say what the cable is: dmx, network, microphone or air.")
    plugs = (Plug(near), Plug(far)) if near in set(Plug) and far in set(Plug) else None
    show = edits.set_hops(show, line_id, {stop: metres(request.form.get("length", ""))})
    return edits.set_cable(show, line_id, [stop], Cable(cable), plugs)


def _lengths(show: Show) -> Show:
    """Lengths along the row: one for all hops, or one after the other; ``-`` for one that is not
    known."""
    line = show.line(_line_id())
    words = request.form.get("lengths", "").replace(";", ",").split(",")[:MOST_LENGTHS]
    typed = [metres(word) for word in words if word.strip()]
    if not typed:
        raise EditError("Type a length in metres, such as 8, or one for each hop: 24, 3, 3, 3.")
    stops = [
        stop
        for stop in wiring_of(line).behind(None)
        if not stop.terminates and stop.cable is not Cable.AIR
    ]
    if len(typed) > len(stops):
        raise EditError(f"{line.name} has {len(stops)} hops; {len(typed)} lengths were typed.")
    if len(typed) == 1:
        typed *= len(stops)
    return edits.set_hops(
        show, line.id, {stop.id: length for stop, length in zip(stops, typed, strict=False)}
    )


def _device(show: Show) -> Show:
    """What the picked device or receiver is like."""
    form = request.form
    power = form.get("power", "")
    hours = form.get("hours", "").strip().replace(",", ".")
    try:
        lasts = float(hours) if hours else None
    except ValueError:
        raise EditError(f"“{hours[:20]}” is no number of hours: type 6 or 7.5.") from None
    return edits.set_device(
        show,
        _line_id(),
        _number("stop"),
        link=form.get("link", "")[:60],
        outputs=_number("outputs") or None,
        boosted=not form.get("passive"),
        rdm=not form.get("no_rdm"),
        power=Power(power) if power in set(Power) else None,
        hours=lasts,
        sign=form.get("sign", "")[:200],
        label=form.get("label", "")[:200] if "label" in form else None,
    )


def _move(show: Show) -> Show:
    """Take the stop to another place: behind a stop that was dropped on, or that is named by its
    post."""
    line_id, to_line, after = _line_id(), _number("to_line"), _number("to")
    return edits.move_stop(show, line_id, _number("stop"), to_line or line_id, after or None)


def _mend(show: Show) -> Show:
    """Take a mend that a finding offered, by its key and its words."""
    finding = analyse(show).by_key.get(request.form.get("finding", ""))
    mends = (
        [mend for mend in mends_for(show, finding) if mend.text == request.form.get("mend")]
        if finding
        else []
    )
    if not mends:
        raise EditError("That finding is not there any more: look at the line again.")
    return apply_mend(show, mends[0])


STEPS: dict[str, Callable[[Show], Show]] = {
    "add": _add,
    "name": _name,
    "start": _start,
    "remove": lambda show: edits.remove_line(show, _line_id()),
    "chain": _chain,
    "insert": _insert,
    "device": _device,
    "move": _move,
    "hop": _hop,
    "lengths": _lengths,
    "mend": _mend,
    "terminate": lambda show: edits.terminate(show, _line_id(), _number("stop") or None),
    "open": lambda show: edits.leave_open(
        show, _line_id(), request.form.get("reason", "")[:300], _number("stop") or None
    ),
    "off": lambda show: edits.take_off(show, _line_id(), [_number("stop")]),
    "earlier": lambda show: edits.step_along(show, _line_id(), _number("stop"), -1),
    "later": lambda show: edits.step_along(show, _line_id(), _number("stop"), 1),
    "branch": lambda show: edits.move_branch(
        show, _line_id(), _number("stop"), _number("to") or None
    ),
    "join": lambda show: edits.join(show, _line_id(), _number("other")),
}
