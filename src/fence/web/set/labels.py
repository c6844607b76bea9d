"""Labels for fixtures, and sheets to tick, as PDF."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlsplit

from flask import Blueprint, Response, current_app, request, url_for

from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import SetterKind
from fence.core.model.setter import Switch, as_seen
from fence.core.model.show import Show
from fence.core.model.standing import AGAIN, stands_words, state_of
from fence.core.model.text import joined, slug, whole_number
from fence.core.setting.readback import setter_of
from fence.core.setting.walk import height_words, walk
from fence.formats.on_paper import SIZES, Heading, Label, Stickers, TickLine
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, local_time
from fence.web.security import OWN, here_called
from fence.web.set.codes import address_code
from fence.web.set.forms import LabelsLink
from fence.web.set.views import at_query, place_asked
from fence.web.showing import Showing

blueprint = Blueprint("labels", __name__, url_prefix="/shows/<int:show_id>/set")

MOST_LABELS = 1000
FREE = ("columns", "rows", "width", "height", "left", "top", "across", "down")


@blueprint.get("/labels")
def index(show_id: int) -> str:
    """Which labels, on which stickers."""
    saved = load(show_id)
    return _page(saved, "")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetLabels(Showing):
    """What is shown by ``set/labels.html``."""

    template = "set/labels.html"
    frame: Frame
    saved: SavedShow
    problem: str
    at: str | None
    query: dict[str, object]
    only: bool
    positions: list[str]
    sizes: dict[str, Stickers]
    size: str
    typed: dict[str, str]
    first: int | None
    base: str
    fixture: int | None


def _page(saved: SavedShow, problem: str) -> str:
    link = LabelsLink.linked()
    at = place_asked(saved.show)
    size = link.size.data
    chosen = SIZES.get(size, SIZES["70x37"])
    return SetLabels(
        frame=frame(saved, "Set"),
        saved=saved,
        problem=problem,
        at=at,
        query=at_query(at),
        only=link.only.data,
        positions=[position.name for position in saved.show.positions],
        sizes=SIZES,
        size=size if size in SIZES or size == "free" else "70x37",
        typed={name: request.args.get(name, f"{getattr(chosen, name):g}")[:12] for name in FREE},
        first=link.first.data,
        base=request.args.get("base", request.url_root.rstrip("/"))[:120],
        fixture=link.fixture.data,
    ).rendered()


def _fixtures(show: Show) -> list[Fixture]:
    """The fixtures that were asked for: one, those to go back to, a position's, or all, in the
    order of the walk."""
    link = LabelsLink.linked()
    if (one := whole_number(request.args.get("fixture", ""))) is not None:
        return [show.fixture(one)]
    at, only = place_asked(show), link.only.data
    stops = [stop for place in walk(show, at).places for stop in place.stops]
    return [stop.fixture for stop in stops if only != "again" or stop.state in AGAIN]


@blueprint.get("/labels.pdf")
def pdf(show_id: int) -> Response | tuple[str, int]:
    """The labels on sheets of stickers."""
    saved = load(show_id)
    try:
        fixtures = _fixtures(saved.show)
        if len(fixtures) > MOST_LABELS:
            raise EditError(
                f"{len(fixtures)} labels are too many at once: print them position by position."
            )
        # what draws on paper is loaded when it is needed
        from fence.formats.labels import labels_pdf

        on, first, base = _stickers(), _first(), _base()
        made = labels_pdf(
            _heading(saved, "Labels"),
            [_label(saved, fixture, base) for fixture in fixtures],
            on,
            first=first,
        )
    except FenceError as error:
        return _page(saved, str(error)), 422
    return _pdf(made, f"{slug(saved.show.name, 'show')}-labels.pdf")


@blueprint.get("/sheets.pdf")
def sheets(show_id: int) -> Response:
    """A sheet to tick for each position, or for one; of those to go back to, on request."""
    link = LabelsLink.linked()
    saved = load(show_id)
    show, only = saved.show, link.only.data
    base = _base()
    places = []
    count = len(_fixtures(show))
    if count > MOST_LABELS:
        raise EditError(
            f"Sheets for {count} fixtures are too many at once: print them position by position."
        )
    for place in walk(show, place_asked(show)).places:
        stops = [stop for stop in place.stops if only != "again" or stop.state in AGAIN]
        lines = [_tick_line(saved, stop.fixture, base) for stop in stops]
        if lines:
            places.append((place.position.name, height_words(place.position), lines))
    from fence.formats.labels import sheets_pdf

    title = "To set again" if only == "again" else "To set"
    return _pdf(sheets_pdf(_heading(saved, title), places), f"{slug(show.name, 'show')}-to-set.pdf")


def _stickers() -> Stickers:
    link = LabelsLink.linked()
    size = link.size.data
    if size in SIZES:
        return SIZES[size]
    numbers = []
    for name in FREE:
        words = request.args.get(name, "0").strip().replace(",", ".")
        try:
            numbers.append(float(words or 0))
        except ValueError:
            raise EditError(
                f"“{words[:20]}” is not a size: type millimetres, such as 63.5."
            ) from None
    if not all(number.is_integer() for number in numbers[:2]):
        raise EditError("Columns and rows of stickers are whole numbers.")
    return Stickers(int(numbers[0]), int(numbers[1]), *numbers[2:])


def _first() -> int:
    first = whole_number(request.args.get("first", "1"))
    if first is None:
        raise EditError("The first sticker to use is a whole number, 1 for a fresh sheet.")
    return first


def _base() -> str:
    """What the codes begin with: where phones find this Fence, and nothing else that somebody may
    have made up."""
    link = LabelsLink.linked()
    base = link.base.data.rstrip("/") or request.url_root.rstrip("/")
    own = current_app.config["HOSTS"] | here_called()
    try:
        parts = urlsplit(base)
        sound = parts.scheme in ("http", "https") and parts.hostname in own and parts.port != 0
        bare = not (parts.path or parts.query or parts.fragment or "@" in parts.netloc)
    except ValueError:
        sound = bare = False
    if not sound or not bare or not base.isprintable() or " " in base:
        names = joined(sorted(own - OWN) or sorted(own), most=6, shown=5)
        raise EditError(
            f"Labels lead to this Fence only, by an address such as http://{request.host}: "
            f"accepted names are {names}. "
            "Who starts Fence can add one with --name."
        )
    return base


def _label(saved: SavedShow, fixture: Fixture, base: str) -> Label:
    show = saved.show
    profile, setter = show.profile_of(fixture), setter_of(show, fixture)
    switches: tuple[Switch, ...] = ()
    if setter.kind is SetterKind.SWITCHES and fixture.start is not None:
        lowest, highest = setter.settable
        if lowest <= fixture.start <= highest:
            switches = as_seen(fixture.start, setter, turned=fixture.turned)
    path = url_for("codes.index", show_id=saved.id, fixture_id=fixture.id, a=address_code(fixture))
    return Label(
        number="" if fixture.number is None else str(fixture.number),
        name=fixture.label,
        address=fixture.planned_at,
        mode=fixture.mode,
        kind=profile.title if profile else "",
        position=fixture.position,
        switches=switches,
        code=base + path,
        note="seen upside down" if switches and fixture.turned else "",
    )


def _tick_line(saved: SavedShow, fixture: Fixture, base: str) -> TickLine:
    profile = saved.show.profile_of(fixture)
    state = state_of(saved.show, fixture)
    stood = f", stands at {stands_words(fixture)}" if state in AGAIN else ""
    return TickLine(
        _label(saved, fixture, base), profile.setter.steps if profile else "", f"{state}{stood}"
    )


def _heading(saved: SavedShow, title: str) -> Heading:
    return Heading(saved.show.name, title, saved.revision, local_time())


def _pdf(content: bytes, name: str) -> Response:
    return Response(
        content,
        mimetype="application/pdf",
        headers={"Content-Disposition": f'inline; filename="{name}"'},
    )
