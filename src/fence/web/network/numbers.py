"""The converter: a universe in any counting to any other; what an address and its mask mean."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, request

from fence.core.model.box import Box
from fence.core.model.errors import EditError
from fence.core.model.network import PRIVATE
from fence.core.network.addresses import USUAL, usual_network
from fence.core.network.convert import (
    COUNTINGS,
    NetworkFacts,
    Numbers,
    network_facts,
    numbers_of,
    read_universe,
)
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.showing import Showing

blueprint = Blueprint("numbers", __name__)

LONGEST = 60


@blueprint.get("/numbers")
def index() -> str:
    """The converter without a show."""
    return _page(None)


@blueprint.get("/shows/<int:show_id>/numbers")
def of_show(show_id: int) -> str:
    """The converter beside a show."""
    return _page(load(show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkNumbers(Showing):
    """What is shown by ``network/numbers.html``."""

    template = "network/numbers.html"
    frame: Frame | None
    layout: str
    saved: SavedShow | None
    countings: dict[str, str]
    counting: str
    typed: str
    network: str
    other: str
    numbers: Numbers | None
    facts: NetworkFacts | None
    problems: dict[str, str]
    private: tuple[str, str, str]
    known: list[Box]


def _page(saved: SavedShow | None) -> str:
    args = request.args
    counting = args.get("counting", "fence")
    usual = usual_network(saved.show) if saved else None
    typed = args.get("typed", "4")[:LONGEST]
    network, other = (
        args.get("network", str(usual or USUAL))[:LONGEST],
        args.get("other", "")[:LONGEST],
    )
    problems = {"universe": "", "network": ""}
    numbers = facts = None
    try:
        numbers = numbers_of(read_universe(typed, counting))
    except EditError as error:
        problems["universe"] = str(error)
    try:
        facts = network_facts(network, other)
    except EditError as error:
        problems["network"] = str(error)
    return NetworkNumbers(
        frame=frame(saved, "Converter") if saved else None,
        layout="shared/show.html" if saved else "shared/plain.html",
        saved=saved,
        countings=COUNTINGS,
        counting=counting,
        typed=typed,
        network=network,
        other=other,
        numbers=numbers,
        facts=facts,
        problems=problems,
        private=PRIVATE,
        known=[box for box in saved.show.boxes if numbers] if saved else [],
    ).rendered()
