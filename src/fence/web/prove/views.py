"""One by one: each fixture brought up alone, the question what is seen, and the answer."""

from __future__ import annotations

from dataclasses import dataclass

from flask import (
    Blueprint,
    Response,
    flash,
    make_response,
    redirect,
    request,
    url_for,
)
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.box import Protocol, as_ip
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.record import How, Seen
from fence.core.model.show import Show
from fence.core.model.standing import State, state_of
from fence.core.model.text import whole_number
from fence.core.simulation.bringing import Look
from fence.core.troubleshooting.evidence import Answer, Check, Evidence, Kind
from fence.core.troubleshooting.search import rests_on
from fence.standins.rig import read_faults
from fence.store.shows import SavedShow
from fence.store.ways import MULTICAST, ConfirmedWay
from fence.web.frame import Frame, frame
from fence.web.pages import load, pages, save, store, who, witness
from fence.web.prove.forms import ProveEither, ProveLink, ProveStep
from fence.web.prove.out import put_out
from fence.web.prove.page import (
    Bar,
    Compared,
    Question,
    bars,
    compared,
    frames_for,
    looks,
    meanwhile,
    order,
    proven_words,
    question,
    shown_of,
    universes_of,
)
from fence.web.prove.sending import (
    OUT,
    PRACTICE,
    aim,
    aim_at,
    broadcast_words,
    rigs,
    send,
    sender,
    touch,
    ways,
)
from fence.web.showing import Part, Showing
from fence.wire.targets import Reach
from fence.work.sender import Brought, Sending

blueprint = Blueprint("prove", __name__, url_prefix="/shows/<int:show_id>/prove")


def whom_asked(show: Show) -> tuple[str | None, int | None, str | None]:
    """The position, the universe and the type that the walk is narrowed to."""
    asked = ProveEither.either()
    at, kind = request.values.get("at"), request.values.get("kind")
    universe = asked.u.data
    positions = {fixture.position for fixture in show.fixtures}
    return at if at in positions else None, universe, kind if kind in show.profile_by_id else None


def query(show: Show) -> dict[str, object]:
    """The same as links carry it."""
    named = zip(("at", "u", "kind"), whom_asked(show), strict=True)
    return {name: value for name, value in named if value is not None}


def current_of(show: Show, fixtures: list[Fixture]) -> Fixture | None:
    """The fixture that is asked about: the one named, else the first that is not proven."""
    asked = ProveEither.either()
    named = asked.fixture.data
    found = next((fixture for fixture in fixtures if fixture.id == named), None)
    open_ones = (fixture for fixture in fixtures if state_of(show, fixture) is not State.PROVEN)
    return found or next(open_ones, fixtures[0] if fixtures else None)


def look_asked() -> Look:
    """The look that is asked for; open white where none is."""
    asked = ProveEither.either()
    words = asked.look.data
    return Look(words) if words in set(Look) else Look.OPEN


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveLive(Part):
    """What changes from second to second."""

    coming: bool
    trouble: str
    sent: Sending | None
    up: bool
    bars: list[Bar]
    meanwhile: list[str]
    counts: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveIndex(Showing):
    """What is shown by ``prove/index.html``."""

    template = "prove/index.html"
    frame: Frame
    saved: SavedShow
    fixtures: list[Fixture]
    current: Fixture | None
    number: int
    before: Fixture | None
    after: Fixture | None
    asked: Question | None
    query: dict[str, object]
    positions: list[str]
    at: str | None
    u: int | None
    kind: str | None
    universes: list[int]
    kinds: list[str]
    aim: str
    ways: list[ConfirmedWay]
    running: bool
    broadcasts: list[tuple[str, str]]
    live: ProveLive


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveSeen(Showing):
    """What is shown by ``prove/_seen.html``."""

    template = "prove/_seen.html"
    saved: SavedShow
    query: dict[str, object]
    swap: bool
    live: ProveLive


@blueprint.get("")
def index(show_id: int) -> str:
    """The picture, and the question about one fixture. Nothing is sent by looking."""
    saved = load(show_id)
    show = saved.show
    at, universe, kind = whom_asked(show)
    fixtures = order(show, at, universe, kind)
    fixture = current_of(show, fixtures)
    places = [f.id for f in fixtures]
    number = places.index(fixture.id) if fixture else 0
    return ProveIndex(
        frame=frame(saved, "Prove"),
        saved=saved,
        fixtures=fixtures,
        current=fixture,
        number=number,
        before=fixtures[number - 1] if number else None,
        after=fixtures[number + 1] if number + 1 < len(fixtures) else None,
        asked=question(show, fixture, look_asked()) if fixture else None,
        query=query(show),
        positions=list(dict.fromkeys(f.position for f in order(show))),
        at=at,
        u=universe,
        kind=kind,
        universes=universes_of(show),
        kinds=sorted({one.profile for one in order(show)}),
        aim=aim(show_id),
        ways=ways().of(show_id),
        running=rigs().of(saved) is not None,
        broadcasts=broadcast_words(show, Reach.here()),
        live=_live(saved, fixtures, fixture),
    ).rendered()


def _live(saved: SavedShow, fixtures: list[Fixture], fixture: Fixture | None) -> ProveLive:
    """What changes from second to second."""
    now = sender().now
    mine = now if now is not None and now.show_id == saved.id else None
    practising = aim(saved.id) == PRACTICE
    shown = shown_of(rigs().state(saved)) if practising else {}
    up = mine is not None and fixture is not None and _is_up(saved, fixture, look_asked())
    practice = rigs().of(saved) if practising else None
    return ProveLive(
        coming=practice is not None and not practice.up.is_set(),
        trouble=rigs().problem_of(saved) if practising else "",
        sent=mine,
        up=up,
        bars=bars(saved.show, fixtures, shown, fixture.id if fixture else None, ()),
        meanwhile=meanwhile(saved.show, shown, fixture, look_asked())
        if up and shown and fixture
        else [],
        counts=proven_words(saved.show),
    )


@blueprint.get("/seen")
def seen(show_id: int) -> Response:
    """The part of the page that changes from second to second; whoever asks for it is there, so
    sending goes on."""
    link = ProveLink.linked()
    saved = load(show_id)
    fixtures = order(saved.show, *whom_asked(saved.show))
    touch()
    live = _live(saved, fixtures, current_of(saved.show, fixtures))
    answer = make_response(
        ProveSeen(saved=saved, query=query(saved.show), swap=True, live=live).rendered()
    )
    # nothing is sent any more: the page must not go on asking
    if link.up.data and live.sent is None:
        answer.headers["HX-Refresh"] = "true"
    return answer


@blueprint.post("/bring")
def bring(show_id: int) -> BaseResponse:
    """Bring one fixture up alone, in one look."""
    saved = load(show_id)
    fixture = saved.show.fixture(_id("fixture"))
    bring_up(saved, fixture, look_asked())
    return _to(saved, fixture, look_asked())


def bring_up(saved: SavedShow, fixture: Fixture, look: Look) -> None:
    """Bring one fixture up alone, in one look."""
    send(saved, frames_for(saved.show, fixture, look), brought=_brought(saved.show, fixture, look))


def _brought(show: Show, fixture: Fixture, look: Look) -> Brought:
    """What is brought up, as the plan has it now."""
    return Brought(
        fixture.id, str(look), fixture.mode, fixture.patch, show.way_in.get(fixture.id, 0)
    )


def _is_up(saved: SavedShow, fixture: Fixture, look: Look) -> bool:
    """Whether this fixture, in this look and as it is planned now, is what is sent at this
    moment."""
    now = sender().now
    return (
        now is not None
        and now.show_id == saved.id
        and now.brought == _brought(saved.show, fixture, look)
    )


def _to(saved: SavedShow, fixture: Fixture, look: Look = Look.OPEN) -> BaseResponse:
    look_words = {} if look is Look.OPEN else {"look": str(look)}
    here = {"fixture": fixture.id, **look_words, **query(saved.show)}
    return redirect(url_for("prove.index", show_id=saved.id, **here))  # type: ignore[arg-type]


def _id(name: str) -> int:
    return whole_number(request.form.get(name, "")) or 0


@blueprint.post("/answer")
def answer(show_id: int) -> BaseResponse:
    """Keep what was seen: right leads to the next look and, after the last one, to a proof; all
    else is a sign.

    It counts only for what is sent at this moment: of a fixture that is not up, or was planned
    otherwise meanwhile, nothing is recorded.
    """
    form = ProveStep.sent()
    saved = load(show_id)
    fixture, look, told = (
        saved.show.fixture(_id("fixture")),
        look_asked(),
        form.answer.data,
    )
    if told not in ("right", *Seen):
        raise EditError("Say what is seen: right, dark, other or wrong.")
    if not _is_up(saved, fixture, look):
        flash(
            f"Not recorded: {fixture.label} is not brought up now. Bring it up, look, and answer "
            "then.",
            "stop",
        )
        return _to(saved, fixture, look)
    if look is Look.OPEN:
        _note_evidence(saved, fixture, told)
    if told == "right":
        mine = looks(saved.show, fixture)
        later = mine[mine.index(look) + 1 :] if look in mine else ()
        if later and not form.enough.data:
            bring_up(saved, fixture, later[0])
            return _to(saved, fixture, later[0])
        save(saved, edits.mark_proven(saved.show, [fixture.id], witness(How.SEEN)))
        flash(f"{fixture.label} is proven.")
    else:
        done = save(
            saved, edits.mark_sign(saved.show, fixture.id, Seen(told), str(look), witness(How.SEEN))
        )
        sign = done.show.fixture(fixture.id).sign
        flash(
            f"Noted until it is proven right: {fixture.label} {sign.words if sign else ''}.", "stop"
        )
    saved = load(show_id)
    fixtures = order(saved.show, *whom_asked(saved.show))
    following = _following(saved.show, fixtures, fixture)
    if following is None:
        flash(f"All of these were looked at. {put_out()}")
        return redirect(url_for("prove.index", show_id=show_id, **query(saved.show)))  # type: ignore[arg-type]
    bring_up(saved, following, Look.OPEN)
    return _to(saved, following)


LOOKED = {
    "right": Answer.RIGHT,
    str(Seen.DARK): Answer.DARK,
    str(Seen.WRONG): Answer.OTHER_COLOUR,
}
"""What an answer of this page is to a search; whose light it was instead is not said here."""


def _note_evidence(saved: SavedShow, fixture: Fixture, told: str) -> None:
    """What was seen counts for a search, too: what was right only where one has begun."""
    answer = {"right": Answer.RIGHT, Seen.DARK: Answer.DARK, Seen.WRONG: Answer.OTHER_COLOUR}.get(
        told
    )
    kept = pages().evidence
    if answer is None or (answer is Answer.RIGHT and not kept.of(saved.id)):
        return
    check = Check(Kind.LOOK, fixture.id)
    kept.note(saved.id, [(Evidence(check, answer), rests_on(saved.show, check))], who=who())


def _following(show: Show, fixtures: list[Fixture], fixture: Fixture) -> Fixture | None:
    """The next one along that is not proven."""
    ids = [one.id for one in fixtures]
    rest = fixtures[ids.index(fixture.id) + 1 :] if fixture.id in ids else []
    return next((one for one in rest if state_of(show, one) is not State.PROVEN), None)


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveChase(Showing):
    """What is shown by ``prove/_chase.html``."""

    template = "prove/_chase.html"
    saved: SavedShow
    query: dict[str, object]
    fixture: Fixture
    number: int
    of: int
    after: Fixture | None
    swap: bool


@blueprint.post("/chase")
def chase(show_id: int) -> str:
    """One step of a gentle chase along the line, to see the order: this fixture alone, and which
    comes next."""
    saved = load(show_id)
    fixtures = order(saved.show, *whom_asked(saved.show))
    fixture = current_of(saved.show, fixtures)
    if fixture is None:
        raise EditError("There is nothing to go along.")
    bring_up(saved, fixture, Look.OPEN)
    ids = [one.id for one in fixtures]
    place = ids.index(fixture.id)
    return ProveChase(
        saved=saved,
        query=query(saved.show),
        fixture=fixture,
        number=place + 1,
        of=len(fixtures),
        after=fixtures[place + 1] if place + 1 < len(fixtures) else None,
        swap=True,
    ).rendered()


@blueprint.post("/aim")
def choose(show_id: int) -> BaseResponse:
    """Send to the practice rig, or to the confirmed addresses. What is sent now goes out first."""
    form = ProveStep.sent()
    load(show_id)
    sender().out()
    aim_at(show_id, form.aim.data)
    return redirect(url_for("prove.index", show_id=show_id))


@blueprint.post("/ways")
def confirm(show_id: int) -> BaseResponse:
    """Confirm an address for this show, or take it away."""
    form = ProveStep.sent()
    show = load(show_id).show
    protocol = form.protocol.data
    if form.away.data:
        told = put_out()
        ways().take_away(show_id, protocol, form.to.data)
        flash(f"That address is not confirmed any more. {told}")
    else:
        if protocol not in set(Protocol):
            raise EditError("Choose sACN or Art-Net.")
        if not form.sure.data:
            raise EditError(
                "Tick that lights may come on and heads may move there, and that it is safe."
            )
        to, reach = form.to.data.strip().lower(), Reach.here()
        if to != MULTICAST:
            to = reach.check(str(as_ip(to)), broadcasts=tuple(reach.broadcasts_of(show)))
        made = ways().confirm(show_id, Protocol(protocol), to, who=who())
        words = f"Confirmed for output: {made.to} by {made.protocol.written}"
        store().tell(show_id, words, who=who(), origin="Prove")
        aim_at(show_id, OUT)
        flash(f"{words}.")
    return redirect(url_for("prove.index", show_id=show_id))


@blueprint.post("/faults")
def practise(show_id: int) -> BaseResponse:
    """Start the practice rig anew, as the show stands, with one fault more, or none."""
    form = ProveStep.sent()
    saved = load(show_id)
    text = form.fault.data
    faults = [text] if text else []
    read_faults(saved.show, faults)
    rigs().start(saved, faults)
    flash(
        "The practice rig is started anew, as the show stands now"
        + (f", but for: {text}." if text else ".")
    )
    return redirect(url_for("prove.index", show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class ProveCompare(Showing):
    """What is shown by ``prove/compare.html``."""

    template = "prove/compare.html"
    frame: Frame
    saved: SavedShow
    rows: list[Compared]
    differ: int
    running: bool
    sent: Sending | None


@blueprint.get("/compare")
def compare(show_id: int) -> str:
    """As it ought to do, and as the practice rig does, with what is sent now."""
    saved = load(show_id)
    state = rigs().state(saved)
    now = sender().now
    frames = sender().levels if now is not None and now.show_id == show_id else {}
    rows = compared(saved.show, frames, shown_of(state))
    return ProveCompare(
        frame=frame(saved, "Prove"),
        saved=saved,
        rows=rows,
        differ=sum(row.differs for row in rows),
        running=state is not None,
        sent=now,
    ).rendered()
