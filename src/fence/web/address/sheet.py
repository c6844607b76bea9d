"""A universe slot by slot, to print and as a file."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime

from flask import Blueprint, Response

from fence.core.addressing.sheet import SlotRow, slot_sheet
from fence.core.model.errors import EditError
from fence.core.model.show import Show, Universe
from fence.core.model.space import Use, use_of
from fence.formats.slot_csv import write_slot_csv
from fence.web.downloads import csv_file
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.showing import Showing

blueprint = Blueprint("sheet", __name__, url_prefix="/shows/<int:show_id>/address/sheet")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressSheet(Showing):
    """What is shown by ``address/sheet.html``."""

    template = "address/sheet.html"
    frame: Frame
    universe: Universe
    rows: list[SlotRow]
    use: Use
    numbers: list[int]
    today: date


@blueprint.get("/<int:number>")
def index(show_id: int, number: int) -> str:
    """All slots of a universe, to print."""
    saved = load(show_id)
    known = _known(saved.show, number)
    return AddressSheet(
        frame=frame(saved, "Address"),
        universe=known,
        rows=slot_sheet(saved.show, known.number),
        use=use_of(saved.show, known.number),
        today=datetime.now(UTC).date(),
        numbers=[universe.number for universe in saved.show.universes],
    ).rendered()


@blueprint.get("/<int:number>.csv")
def file(show_id: int, number: int) -> Response:
    """The same as a file."""
    saved = load(show_id)
    known = _known(saved.show, number)
    return csv_file(write_slot_csv(saved.show, known.number), f"universe-{known.number}")


def _known(show: Show, number: int) -> Universe:
    found = show.universe_by_number.get(number)
    if found is None:
        raise EditError(f"The show has no universe {number}.")
    return found
