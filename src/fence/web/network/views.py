"""The Network page, and every step at a box or a port."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.mends import apply_mend, mends_for
from fence.core.checks import analyse
from fence.core.edits.prose import describe
from fence.core.model.box import (
    Box,
    BoxKind,
    Given,
    Merging,
    Numbering,
    Protocol,
    Use,
    Way,
    as_host,
    as_prefix,
)
from fence.core.model.errors import EditError
from fence.core.model.line import Source
from fence.core.model.network import first_of, outlets
from fence.core.model.show import Show
from fence.core.model.text import printable, whole_number
from fence.core.network.addresses import new_address
from fence.core.network.node_mends import box_named
from fence.store.shows import SavedShow
from fence.web.address.rails import WIDE as WIDE_RAILS
from fence.web.address.rails import asked_rails
from fence.web.frame import Frame, frame
from fence.web.network.drawing import NARROW, WIDE
from fence.web.network.forms import BoxStep, Shown
from fence.web.network.page import NetworkPage, network_page
from fence.web.pages import load, load_for_edit, save, witness
from fence.web.showing import Showing

blueprint = Blueprint("network", __name__, url_prefix="/shows/<int:show_id>/network")

SHOWN_AT_ONCE = {"add", "mend"}
"""Steps whose outcome the page shows at once: their new stops are named there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkIndex(Showing):
    """What is shown by ``network/index.html``."""

    template = "network/index.html"
    frame: Frame
    saved: SavedShow
    page: NetworkPage
    protocols: list[Protocol]
    ways: list[Way]
    uses: list[Use]
    mergings: list[Merging]


@blueprint.get("")
def index(show_id: int) -> str:
    """The desk's universes, the boxes and their gates; what is picked beside them."""
    saved = load(show_id)
    shown = Shown.linked()
    box_id = shown.box.data
    if box_id is None and (named := box_named(saved.show, shown.name.data or None)):
        box_id = named.id
    measures = WIDE if asked_rails() == WIDE_RAILS else NARROW
    page = network_page(
        saved.show,
        saved.analysis,
        measures,
        box_id,
        shown.port.data,
        shown.u.data,
    )
    return NetworkIndex(
        frame=frame(saved, "Network"),
        saved=saved,
        page=page,
        protocols=list(Protocol),
        ways=list(Way),
        uses=list(Use),
        mergings=list(Merging),
    ).rendered()


@blueprint.post("/step/<what>")
def take(show_id: int, what: str) -> BaseResponse:
    """Do a step at a box and show what came of it."""
    if what not in STEPS:
        raise EditError("Say what to do with the node.")
    before = load_for_edit(show_id)
    form = BoxStep.sent().checked()
    after = STEPS[what](before.show, form)
    save(before, after, seen=what in SHOWN_AT_ONCE)
    flash(describe(before.show, after) or "Nothing to change.")
    box_id = form.box.data
    fresh = [box.id for box in after.boxes if box.id not in before.show.box_by_id]
    kept: dict[str, Any] = {}
    if fresh or box_id in after.box_by_id:
        kept["box"] = fresh[0] if fresh else box_id
        port = form.port.data
        if not fresh and after.box(box_id).port(port):
            kept["port"] = port
    return redirect(
        url_for(
            "network.index", show_id=show_id, _anchor=f"box-{kept['box']}" if kept else None, **kept
        )
    )


def _add(show: Show, form: BoxStep) -> Show:
    """A desk, or a box whose ports take the universes that have none; with an address where the
    others have one."""
    kind = form.kind.data
    ports = form.ports.data or 0
    show = edits.add_box(show, form.name.data, kind=kind, ports=ports)
    box = show.boxes[-1]
    if kind is BoxKind.DESK:
        show = edits.change_box(show, box.id, sends=form.sends.data)
    typed = form.ip.data
    if typed:
        show = edits.put_box(show, _with_address(show.box(box.id), typed, form.prefix.data))
    elif any(held.ip for held in show.boxes) and (found := new_address(show, box)):
        show = edits.change_box(show, box.id, ip=found[0], prefix=found[1])
    if form.fill.data:
        given = {outlet.port.universe for outlet in outlets(show)}
        lost = [universe for universe in show.carried if universe not in given]
        show = edits.give(
            show, box.id, dict(zip((port.number for port in box.ports), lost, strict=False))
        )
    return show


def _save(show: Show, form: BoxStep) -> Show:
    """All that the form says of a box."""
    box = show.box(form.box.data)
    said = replace(
        box,
        name=form.name.data,
        model=form.model.data,
        gives=Given.SERVER if form.gives.data == Given.SERVER else Given.HAND,
        protocol=form.protocol.data or box.protocol,
        way=form.way.data or box.way,
        counts_from=0 if form.counts_from.data == "0" else 1,
        numbering=form.numbering.data or box.numbering,
        priority=box.priority if form.priority.data is None else form.priority.data,
        merging=form.merging.data,
        sends=form.sends.data,
        only=_universes(form.only.data),
        both=form.both.data,
        speed=box.speed if form.speed.data is None else form.speed.data,
        over_air=form.over_air.data,
    )
    said = _with_address(said, form.ip.data, form.prefix.data)
    show = edits.put_box(show, _in_step(box, said))
    count = form.ports.data
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


def _with_address(box: Box, ip: str, prefix: str) -> Box:
    """A box with the address that was typed; a mask behind it comes before the one in the field."""
    address, mask = as_host(ip) if ip.strip() else ("", None)
    if mask is None:
        mask = as_prefix(prefix) if prefix.strip() else box.prefix
    return replace(box, ip=address, prefix=mask)


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
                f"“{printable(piece.strip()[:30])}” is not a list of universes. Use 1-8, 12."
            )
        found.update(dict.fromkeys(range(low, high + 1)))
    return tuple(found)


def _port(show: Show, form: BoxStep) -> Show:
    """What a port gives out, what it is for, what it was seen to say, which lines start there."""
    box, number = show.box(form.box.data), form.port.data
    port = box.port(number)
    if port is None:
        raise EditError(f"{box.name} has no port {number}.")
    universe = form.universe.data
    use = form.use.data or port.use
    show = edits.give(show, box.id, {number: universe})
    show = edits.use_port(show, box.id, number, use) if use is not port.use else show
    says = form.says.data
    if says != port.says:
        show = edits.say(show, box.id, {number: says}, witness())
    line = form.line.data
    return edits.start_line(show, line, Source(box.id, number)) if line else show


def _loose(show: Show, form: BoxStep) -> Show:
    return edits.start_line(show, form.line.data, None)


def _mend(show: Show, form: BoxStep) -> Show:
    """Take a mend that a finding offered, by its key and its words."""
    finding = analyse(show).by_key.get(form.finding.data)
    mends = (
        [mend for mend in mends_for(show, finding) if mend.text == form.mend.data]
        if finding
        else []
    )
    if not mends:
        raise EditError("That finding is not there any more: look at the node again.")
    return apply_mend(show, mends[0])


STEPS: dict[str, Callable[[Show, BoxStep], Show]] = {
    "add": _add,
    "save": _save,
    "port": _port,
    "loose": _loose,
    "remove": lambda show, form: edits.remove_box(show, form.box.data),
    "mend": _mend,
}
