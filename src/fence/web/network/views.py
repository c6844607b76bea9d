"""The Network page, and every step at a box or a port."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.mends import apply_mend, mends_for
from fence.core.checks import analyse
from fence.core.edits.prose import describe
from fence.core.model.box import Box, BoxKind, Given, Merging, Numbering, Protocol, Use, Way, as_ip
from fence.core.model.errors import EditError
from fence.core.model.line import Source
from fence.core.model.network import first_of, outlets
from fence.core.model.show import Show
from fence.core.model.text import printable, whole_number
from fence.core.network.addresses import new_address
from fence.core.network.node_mends import box_named
from fence.web.address.rails import WIDE as WIDE_RAILS
from fence.web.address.rails import asked_rails
from fence.web.frame import frame
from fence.web.network.drawing import NARROW, WIDE
from fence.web.network.page import network_page
from fence.web.pages import load, load_for_edit, save, witness

blueprint = Blueprint("network", __name__, url_prefix="/shows/<int:show_id>/network")

SHOWN_AT_ONCE = {"add", "mend"}
"""Steps whose outcome the page shows at once: their new stops are named there."""


@blueprint.get("")
def index(show_id: int) -> str:
    """The desk's universes, the boxes and their gates; what is picked beside them."""
    saved = load(show_id)
    args = request.args
    box_id = args.get("box", type=int)
    if box_id is None and (named := box_named(saved.show, args.get("name"))):
        box_id = named.id
    measures = WIDE if asked_rails() == WIDE_RAILS else NARROW
    page = network_page(
        saved.show,
        saved.analysis,
        measures,
        box_id,
        args.get("port", type=int),
        args.get("u", type=int),
    )
    return render_template(
        "network/index.html",
        frame=frame(saved, "Network"),
        saved=saved,
        page=page,
        protocols=list(Protocol),
        ways=list(Way),
        uses=list(Use),
        mergings=list(Merging),
    )


@blueprint.post("/step/<what>")
def take(show_id: int, what: str) -> BaseResponse:
    """Do a step at a box and show what came of it."""
    if what not in STEPS:
        raise EditError("Say what to do with the box.")
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    after = STEPS[what](before.show)
    save(before, after, seen=what in SHOWN_AT_ONCE)
    flash(describe(before.show, after) or "Nothing to change.")
    box_id = _number("box")
    fresh = [box.id for box in after.boxes if box.id not in before.show.box_by_id]
    kept: dict[str, Any] = {}
    if fresh or box_id in after.box_by_id:
        kept["box"] = fresh[0] if fresh else box_id
        port = _number("port")
        if not fresh and after.box(box_id).port(port):
            kept["port"] = port
    return redirect(
        url_for(
            "network.index", show_id=show_id, _anchor=f"box-{kept['box']}" if kept else None, **kept
        )
    )


def _number(name: str) -> int:
    return whole_number(request.form.get(name, "")) or 0


def _asked(name: str, what: str) -> int | None:
    """A whole number of the form, None where nothing is typed; ``EditError`` names ``what`` was
    meant."""
    words = request.form.get(name, "").strip()
    number = whole_number(words)
    if words and number is None:
        raise EditError(f"“{printable(words[:20])}” is no {what}: accepted are whole numbers.")
    return number


def _add(show: Show) -> Show:
    """A desk, or a box whose ports take the universes that have none; with an address where the
    others have one."""
    form = request.form
    kind = BoxKind.DESK if form.get("kind") == BoxKind.DESK else BoxKind.NODE
    ports = _asked("ports", "number of ports") or 0
    show = edits.add_box(show, form.get("name", "")[:200], kind=kind, ports=ports)
    box = show.boxes[-1]
    if kind is BoxKind.DESK:
        show = edits.change_box(show, box.id, sends=_asked("sends", "number of universes"))
    typed = form.get("ip", "").strip()
    if typed:
        show = edits.change_box(show, box.id, ip=str(as_ip(typed)))
    elif any(held.ip for held in show.boxes) and (found := new_address(show, box)):
        show = edits.change_box(show, box.id, ip=found[0], prefix=found[1])
    if form.get("fill"):
        given = {outlet.port.universe for outlet in outlets(show)}
        lost = [universe for universe in show.carried if universe not in given]
        show = edits.give(
            show, box.id, dict(zip((port.number for port in box.ports), lost, strict=False))
        )
    return show


def _save(show: Show) -> Show:
    """All that the form says of a box."""
    form = request.form
    box = show.box(_number("box"))
    speed = form.get("speed", "").strip().replace(",", ".")
    try:
        mbit = float(speed) if speed else box.speed
    except ValueError:
        raise EditError(
            f"“{printable(speed[:20])}” is no speed of a wire: type Mbit/s, such as 100."
        ) from None
    priority = _asked("priority", "priority")
    said = replace(
        box,
        name=form.get("name", "").strip(),
        model=form.get("model", "").strip()[:200],
        ip=form.get("ip", "").strip(),
        prefix=_prefix(form.get("prefix", ""), box),
        gives=Given.SERVER if form.get("gives") == Given.SERVER else Given.HAND,
        protocol=_one_of(Protocol, form.get("protocol", ""), box.protocol),
        way=_one_of(Way, form.get("way", ""), box.way),
        counts_from=0 if form.get("counts_from") == "0" else 1,
        numbering=_one_of(Numbering, form.get("numbering", ""), box.numbering),
        priority=box.priority if priority is None else priority,
        merging=_one_of(Merging, form.get("merging", ""), None),
        sends=_asked("sends", "number of universes"),
        only=_universes(form.get("only", "")),
        both=bool(form.get("both")),
        speed=mbit,
        over_air=bool(form.get("over_air")),
    )
    show = edits.put_box(show, _in_step(box, said))
    count = _asked("ports", "number of ports")
    return (
        show if count is None or count == len(box.ports) else edits.count_ports(show, box.id, count)
    )


def _in_step(box: Box, said: Box) -> Box:
    """A box that now numbers its ports as a range plans them on from the first."""
    if said.numbering is not Numbering.RANGE or box.numbering is Numbering.RANGE:
        return said
    first = first_of(said)
    if first is None:
        return said
    ports = tuple(
        replace(port, universe=first + place) if port.universe is not None else port
        for place, port in enumerate(said.ports)
    )
    return replace(said, ports=ports)


def _one_of(kind: Any, word: str, otherwise: Any) -> Any:
    return kind(word) if word in set(kind) else otherwise


def _prefix(typed: str, box: Box) -> int:
    """Bits of the network from ``24``, ``/24`` or ``255.255.255.0``."""
    words = typed.strip().removeprefix("/")
    if not words:
        return box.prefix
    number = whole_number(words)
    if number is None:
        bits = f"{int(as_ip(words)):032b}"
        if "01" in bits:
            raise EditError(
                f"“{printable(words[:40])}” is no mask: accepted are /8 to /30, or as "
                "255.255.255.0."
            )
        number = bits.count("1")
    return number


MOST_LISTED = 2000


def _universes(typed: str) -> tuple[int, ...]:
    """Universes from ``1-8, 12``; empty for nothing."""
    found: dict[int, None] = {}
    for piece in typed.replace(";", ",").split(","):
        if not piece.strip():
            continue
        first, _, last = (part.strip().lstrip("uU") for part in piece.partition("-"))
        low = whole_number(first)
        high = whole_number(last) if last else low
        if low is None or high is None or not low <= high < low + MOST_LISTED:
            raise EditError(
                f"“{printable(piece.strip()[:30])}” is no list of universes: accepted are 1-8, 12."
            )
        found.update(dict.fromkeys(range(low, high + 1)))
    return tuple(found)


def _port(show: Show) -> Show:
    """What a port gives out, what it is for, what it was seen to say, which lines start there."""
    form = request.form
    box, number = show.box(_number("box")), _number("port")
    port = box.port(number)
    if port is None:
        raise EditError(f"{box.name} has no port {number}.")
    universe = _asked("universe", "universe")
    use = _one_of(Use, form.get("use", ""), port.use)
    show = edits.give(show, box.id, {number: universe})
    show = edits.use_port(show, box.id, number, use) if use is not port.use else show
    says = _asked("says", "number that a box shows")
    if says != port.says:
        show = edits.say(show, box.id, {number: says}, witness())
    line = _number("line")
    return edits.start_line(show, line, Source(box.id, number)) if line else show


def _loose(show: Show) -> Show:
    return edits.start_line(show, _number("line"), None)


def _mend(show: Show) -> Show:
    """Take a mend that a finding offered, by its key and its words."""
    finding = analyse(show).by_key.get(request.form.get("finding", ""))
    mends = (
        [mend for mend in mends_for(show, finding) if mend.text == request.form.get("mend")]
        if finding
        else []
    )
    if not mends:
        raise EditError("That finding is not there any more: look at the box again.")
    return apply_mend(show, mends[0])


STEPS: dict[str, Callable[[Show], Show]] = {
    "add": _add,
    "save": _save,
    "port": _port,
    "loose": _loose,
    "remove": lambda show: edits.remove_box(show, _number("box")),
    "mend": _mend,
}
