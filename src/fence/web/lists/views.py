"""Lists to print and as PDF: by fixture, or by channel."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice

from flask import Blueprint, Response, request

from fence.core.addressing.lists import (
    ChannelLine,
    ListedFixture,
    ListOrder,
    channels_listed,
    in_order,
    listed,
)
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.text import counted, slug
from fence.formats.on_paper import Heading
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, local_time
from fence.web.showing import Showing

blueprint = Blueprint("lists", __name__, url_prefix="/shows/<int:show_id>/lists")

ORDERS = {
    ListOrder.RIG: "as in the rig",
    ListOrder.NUMBER: "by number",
    ListOrder.ADDRESS: "by address",
    ListOrder.POSITION: "by position",
}
MOST_ON_PAPER = 2000
"""Fixtures on one PDF; beyond that it takes too long, and nobody carries it."""
MOST_UNIVERSES = 16
"""Universes on one PDF by channel."""
ROWS_SHOWN = 400


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which list: by channel or by fixture, of one universe, one position or all, in which
    order."""

    by_channel: bool
    universe: int | None
    position: str | None
    order: ListOrder

    @property
    def whom(self) -> str:
        """Of whom, as the form says it."""
        if self.universe is not None:
            return f"u{self.universe}"
        return f"at {self.position}" if self.position is not None else ""

    @property
    def title(self) -> str:
        """What stands on top of the list."""
        kind = "Channels" if self.by_channel else "Fixtures"
        if self.universe is not None:
            return f"{kind}, U{self.universe}"
        return f"{kind}, {self.position}" if self.position is not None else kind


def _wanted(show: Show) -> Wanted:
    values = request.args
    whom, order = values.get("whom", ""), values.get("order", "")
    universe = int(whom[1:]) if whom[:1] == "u" and whom[1:].isdecimal() and len(whom) < 7 else None
    if universe is not None and universe not in show.universe_by_number:
        raise EditError(f"The show has no universe {universe}.")
    position = whom[3:] if whom.startswith("at ") else None
    chosen = ListOrder(order) if order in set(ListOrder) else ListOrder.RIG
    return Wanted(values.get("by") == "channel", universe, position, chosen)


def _fixtures(show: Show, wanted: Wanted) -> list[Fixture]:
    return in_order(show, wanted.order, universe=wanted.universe, position=wanted.position)


def _universes(show: Show, wanted: Wanted) -> list[tuple[str, list[ChannelLine]]]:
    """The universes on a list by channel: the one asked for, those with fixtures at the position,
    or all in use."""
    if wanted.universe is not None:
        numbers = [wanted.universe]
    else:
        here = [
            f for f in show.fixtures if wanted.position is None or f.position == wanted.position
        ]
        numbers = sorted(
            {entry.universe for fixture in here for entry in fixture.patch if entry.universe}
        )
    known = show.universe_by_number
    return [
        (known[number].title if number in known else f"U{number}", channels_listed(show, number))
        for number in islice(numbers, MOST_UNIVERSES)
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListsIndex(Showing):
    """What is shown by ``lists/index.html``."""

    template = "lists/index.html"
    frame: Frame
    wanted: Wanted
    orders: dict[ListOrder, str]
    heading: Heading
    fixtures: list[ListedFixture]
    more: int
    count: int
    universes: list[tuple[str, list[ChannelLine]]]
    positions: list[str]
    numbers: tuple[int, ...]
    query: dict[str, str]


@blueprint.get("")
def index(show_id: int) -> str:
    """The list on the page, as it is printed, with a way to the PDF."""
    saved = load(show_id)
    wanted = _wanted(saved.show)
    fixtures = [] if wanted.by_channel else _fixtures(saved.show, wanted)
    return ListsIndex(
        frame=frame(saved, "Lists"),
        wanted=wanted,
        orders=ORDERS,
        heading=_heading(saved, wanted),
        fixtures=listed(saved.show, fixtures[:ROWS_SHOWN]),
        more=max(0, len(fixtures) - ROWS_SHOWN),
        count=len(fixtures),
        universes=_universes(saved.show, wanted)[:4] if wanted.by_channel else [],
        positions=[position.name for position in saved.show.positions],
        numbers=saved.show.universe_numbers[:500],
        query={
            name: value for name, value in request.args.items() if name in ("by", "whom", "order")
        },
    ).rendered()


@blueprint.get("/<name>.pdf")
def pdf(show_id: int, name: str) -> Response:
    """The list as PDF. The name is only for the person who keeps the file."""
    # what draws on paper is loaded when it is needed
    from fence.formats.paper import channels_pdf, fixtures_pdf

    saved = load(show_id)
    wanted = _wanted(saved.show)
    heading = _heading(saved, wanted)
    if wanted.by_channel:
        document = channels_pdf(heading, _universes(saved.show, wanted))
    else:
        fixtures = _fixtures(saved.show, wanted)
        if len(fixtures) > MOST_ON_PAPER:
            raise EditError(
                f"That would be {counted(len(fixtures), 'fixture')}: a PDF takes up to "
                f"{MOST_ON_PAPER}. "
                "Choose one position or one universe."
            )
        document = fixtures_pdf(heading, listed(saved.show, fixtures))
    response = Response(document, content_type="application/pdf")
    response.headers["Content-Disposition"] = (
        f'attachment; filename="{file_name(saved.show, wanted)}"'
    )
    return response


def file_name(show: Show, wanted: Wanted) -> str:
    """The name of the file: the show and the list."""
    return f"{slug(show.name, 'show')}-{slug(wanted.title, 'list')}.pdf"


def _heading(saved: SavedShow, wanted: Wanted) -> Heading:
    """Show, list, revision, and now in local time."""
    return Heading(saved.show.name, wanted.title, saved.revision, local_time())
