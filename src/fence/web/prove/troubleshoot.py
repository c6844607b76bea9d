"""Troubleshoot: what was seen, what it most likely is, and what to check next."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock

from flask import Blueprint, current_app, flash, redirect, request, url_for
from werkzeug.wrappers.response import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.record import How
from fence.core.model.record import Seen as Sign
from fence.core.model.show import Show
from fence.core.model.text import counted, joined, whole_number
from fence.core.simulation.bringing import Look
from fence.core.troubleshooting.asking import Next
from fence.core.troubleshooting.causes import WEIGHTS
from fence.core.troubleshooting.evidence import ANSWERS, WITH_VALUE, Answer, Check, Evidence, Kind
from fence.core.troubleshooting.picture import Chain, chains_of
from fence.core.troubleshooting.search import Finding, Search, Suspect, rests_on
from fence.core.troubleshooting.told import (
    answer_words,
    asks,
    cause_words,
    evidence_words,
    kind_words,
    remedy,
)
from fence.formats.troubleshooting import mode_of, number_read
from fence.store.evidence import Noted
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, pages, save, store, who, witness
from fence.web.prove.forms import TroubleshootLink, TroubleshootStep
from fence.web.prove.page import order, universes_of
from fence.web.prove.views import bring_up
from fence.web.showing import Showing

blueprint = Blueprint(
    "troubleshoot", __name__, url_prefix="/shows/<int:show_id>/prove/troubleshoot"
)

MOST_SEARCHES = 4
"""Shows of which a search is kept ready."""
MOST_SKIPPED = 100
"""Checks that somebody puts off."""
MOST_AT_ONCE = 60
"""Fixtures of which the same is said at once."""
TOLD = 5
"""Causes that are shown."""
SYMPTOMS = (Answer.DARK, Answer.OTHER_COLOUR, Answer.FLICKER, Answer.OWN_PROGRAM, Answer.RIGHT)
SIGNS = {
    Answer.DARK: Sign.DARK,
    Answer.OTHER_COLOUR: Sign.WRONG,
    Answer.FLICKER: Sign.WRONG,
    Answer.OWN_PROGRAM: Sign.WRONG,
}
"""What a look that was not right is as an open sign of a fixture."""
LIKELY = (
    (0.9, "almost certain"),
    (0.6, "likely"),
    (0.3, "possible"),
    (0.05, "one of several"),
    (0.0, "unlikely"),
)


class Searches:
    """Searches that are kept ready, by show. Evidence and notes in the log change no show, so that
    a search goes on with what it knows."""

    def __init__(self) -> None:
        self._held: OrderedDict[int, Search] = OrderedDict()
        self._lock = Lock()

    def of(self, saved: SavedShow) -> Search:
        """That of a show as it stands. One that has to be made keeps nobody waiting but who asked
        for it."""
        with self._lock:
            found = self._held.get(saved.id)
        if found is None or found.show != saved.show:
            found = Search(saved.show)
        with self._lock:
            self._held[saved.id] = found
            self._held.move_to_end(saved.id)
            while len(self._held) > MOST_SEARCHES:
                self._held.popitem(last=False)
        return found


@dataclass(frozen=True, slots=True)
class Told:
    """A cause as it is shown. ``width`` is its share in percent."""

    words: str
    percent: int
    likely: str
    why: list[str]


@dataclass(frozen=True, slots=True)
class Seen:
    """A piece of evidence as it is shown; ``stale`` where it counts no more, since what it rests on
    was changed."""

    noted: Noted
    words: str
    stale: bool


@dataclass(frozen=True, slots=True)
class Question:
    """The check that is asked for. ``answers`` are those that need nothing more than a tap."""

    found: Next
    words: str
    fixture: Fixture | None
    answers: list[tuple[str, str]]
    modes: list[str]
    lit: bool

    @property
    def reads(self) -> bool:
        """Whether a number is typed."""
        return self.found.check.kind in (Kind.DISPLAY, Kind.NODE)

    @property
    def high(self) -> bool:
        """Whether somebody goes up, or touches cables and mains."""
        return self.found.check.kind not in (Kind.LOOK, Kind.RDM, Kind.DESK)


@dataclass(frozen=True, slots=True, kw_only=True)
class Troubleshoot(Showing):
    """What is shown by ``prove/troubleshoot.html``."""

    template = "prove/troubleshoot.html"
    frame: Frame
    saved: SavedShow
    fixtures: list[Fixture]
    picked: int | None
    positions: list[str]
    universes: list[int]
    symptoms: list[tuple[str, str]]
    weights: list[tuple[str, float]]
    seen: list[Seen]
    told: list[Told]
    question: Question | None
    settled: bool
    remedy: str
    chains: list[Chain]
    skipped: list[str]
    culprit: Fixture | None


@blueprint.get("")
def index(show_id: int) -> str:
    """What was seen so far, the likeliest causes, and the next check."""
    link = TroubleshootLink.linked()
    saved = load(show_id)
    skipped = link.skip.data[:MOST_SKIPPED]
    seen = _seen(saved)
    counting = [one.noted.evidence for one in seen if not one.stale]
    fixtures = order(saved.show)
    if not counting:
        return _page(saved, fixtures, seen, skipped, link.fixture.data, None)
    finding = _searches().of(saved).after(counting)
    return _page(saved, fixtures, seen, skipped, link.fixture.data, finding)


def _page(
    saved: SavedShow,
    fixtures: list[Fixture],
    seen: list[Seen],
    skipped: list[str],
    picked: int | None,
    finding: Finding | None,
) -> str:
    suspects = finding.suspects if finding else ()
    settled = finding is not None and finding.settled
    question = _question(finding, skipped) if finding and not settled else None
    top = suspects[0].fault if suspects else None
    return Troubleshoot(
        frame=frame(saved, "Prove"),
        saved=saved,
        fixtures=fixtures,
        picked=picked,
        positions=list(dict.fromkeys(f.position for f in fixtures if f.position)),
        universes=universes_of(saved.show),
        symptoms=[(str(one), answer_words(Kind.LOOK, one)) for one in SYMPTOMS],
        weights=[(kind_words(trouble), weight) for trouble, weight in WEIGHTS.items()],
        seen=seen,
        told=[_told(finding, one) for one in suspects[:TOLD]] if finding else [],
        question=question,
        settled=settled,
        remedy=remedy(saved.show, top) if top and settled else "",
        chains=chains_of(finding, question.found.check if question else None) if finding else [],
        skipped=skipped,
        culprit=saved.show.fixture_by_id.get(top.fixture or 0) if top and settled else None,
    ).rendered()


def _searches() -> Searches:
    found: Searches = current_app.extensions.setdefault("fence_searches", Searches())
    return found


def _seen(saved: SavedShow) -> list[Seen]:
    return [
        Seen(
            noted,
            evidence_words(saved.show, noted.evidence),
            rests_on(saved.show, noted.evidence.check) != noted.rests_on,
        )
        for noted in pages().evidence.of(saved.id)
    ]


def _told(finding: Finding, suspect: Suspect) -> Told:
    share = suspect.probability
    return Told(
        cause_words(finding.search.show, [suspect.fault]),
        round(100 * share),
        next(words for least, words in LIKELY if share >= least),
        finding.why(suspect),
    )


def _question(finding: Finding, skipped: list[str]) -> Question | None:
    """The best check that was not put off."""
    found = next((one for one in finding.checks if one.check.id not in skipped), None)
    if found is None:
        return None
    show, check = finding.search.show, found.check
    fixture = show.fixture_by_id.get(check.fixture)
    profile = show.profile_of(fixture) if fixture else None
    return Question(
        found,
        asks(show, check),
        fixture,
        [
            (str(one), answer_words(check.kind, one))
            for one in ANSWERS[check.kind]
            if (check.kind, one) not in WITH_VALUE
        ],
        [mode.name for mode in profile.modes] if profile else [],
        check.kind is Kind.LOOK,
    )


@blueprint.post("/note")
def note(show_id: int) -> BaseResponse:
    """Keep what was seen."""
    form = TroubleshootStep.sent()
    saved = load(show_id)
    found = []
    for whom in _whom(saved.show, form):
        check = _check(saved.show, form, whom)
        answered = _answered(saved.show, check, form)
        found += [(one, rests_on(saved.show, check)) for one in answered]
    pages().evidence.note(show_id, found, who=who())
    words = joined([evidence_words(saved.show, one) for one, _ in found])
    store().tell(show_id, f"Troubleshooting: {words}", who=who(), origin="Prove")
    return redirect(url_for("troubleshoot.index", show_id=show_id))


def _whom(show: Show, form: TroubleshootStep) -> list[int]:
    """The fixtures of whom something is said: one, all at a position, or all of a universe."""
    kind, _, name = form.whom.data.partition(":")
    if kind == "at":
        found = [f.id for f in order(show) if f.position == name]
    elif kind == "u":
        found = [f.id for f in order(show) if name in map(str, show.universes_of(f))]
    else:
        return [whole_number(form.whom.data) or form.fixture.data or 0]
    if not found:
        raise EditError("No fixture hangs there any more: pick one of the list.")
    return found[:MOST_AT_ONCE]


def _check(show: Show, form: TroubleshootStep, whom: int) -> Check:
    kind = form.kind.data
    if kind is None:
        raise EditError(f"Say what was checked: {', '.join(Kind)}.")
    check = Check(
        kind,
        whom,
        form.line.data,
        form.stop.data or 0,
        form.box.data,
        form.port.data or 0,
    )
    if check.fixture:
        show.fixture(check.fixture)
    if kind in (Kind.LOOK, Kind.POWER, Kind.DISPLAY, Kind.LISTENS, Kind.RDM) and not check.fixture:
        raise EditError("Say which fixture: pick one of the list.")
    lines = {line.name: {stop.id for stop in line.stops} for line in show.lines}
    if check.line and check.stop not in lines.get(check.line, ()):
        raise EditError("That device is no longer on the line.")
    ports = {box.name: {port.number for port in box.ports} for box in show.boxes}
    if check.box and check.port not in ports.get(check.box, ()):
        raise EditError("That port is no longer there.")
    return check


def _answered(show: Show, check: Check, form: TroubleshootStep) -> list[Evidence]:
    """What was answered; a display says an address, a mode, or both."""
    answer = form.answer.data
    if check.kind is Kind.DISPLAY:
        found = []
        if form.says.data:
            found.append(Evidence(check, Answer.SAYS, number_read(form.says.data)))
        if form.mode.data:
            mode = mode_of(show, check.fixture, form.mode.data)
            found.append(Evidence(check, Answer.MODE, mode))
        if not found:
            raise EditError("Type the address that it says, or choose the mode that it shows.")
        return found
    if check.kind is Kind.NODE and answer is not Answer.OFF:
        if not form.says.data:
            raise EditError("Type the number that the port says, such as 4, or say that it is off.")
        return [Evidence(check, Answer.SAYS, number_read(form.says.data))]
    if check.kind is Kind.LOOK and form.other.data:
        other = show.fixture(form.other.data)
        return [Evidence(check, Answer.ANOTHER, str(other.id))]
    if answer is None or answer not in ANSWERS[check.kind]:
        raise EditError(f"Say what was seen: {', '.join(ANSWERS[check.kind])}.")
    return [Evidence(check, answer)]


@blueprint.post("/take-back/<int:evidence_id>")
def take_back(show_id: int, evidence_id: int) -> BaseResponse:
    """Forget a piece of evidence."""
    pages().evidence.take_back(show_id, evidence_id)
    return redirect(url_for("troubleshoot.index", show_id=show_id))


@blueprint.post("/found")
def found(show_id: int) -> BaseResponse:
    """Write the cause to the log, keep it as an open point of its fixture until that is proven
    right, and put the evidence away."""
    saved = load(show_id)
    counting = [one.noted.evidence for one in _seen(saved) if not one.stale]
    finding = _searches().of(saved).after(counting) if counting else None
    if finding is None or not finding.settled:
        raise EditError("No cause stands out any more: look at the page again.")
    fault = finding.suspects[0].fault
    words = cause_words(saved.show, [fault])
    store().tell(show_id, f"Found: {words}", who=who(), origin="Prove")
    dark = next((e for e in counting if e.check.kind is Kind.LOOK and e.answer in SIGNS), None)
    open_one = fault.fixture or (dark.check.fixture if dark else None)
    if open_one is not None and saved.show.fixture(open_one).sign is None:
        seen = SIGNS[dark.answer] if dark and dark.check.fixture == open_one else Sign.DARK
        before = load(show_id)
        marked = edits.mark_sign(before.show, open_one, seen, str(Look.OPEN), witness(How.SEEN))
        save(before, marked)
    pages().evidence.begin_anew(show_id)
    flash(f"Noted: {words} It stays open until it is proven right.")
    return redirect(url_for("troubleshoot.index", show_id=show_id))


@blueprint.post("/anew")
def anew(show_id: int) -> BaseResponse:
    """Begin a new search: all evidence is forgotten; the log keeps it."""
    saved = load(show_id)
    count = len(pages().evidence.of(show_id))
    pages().evidence.begin_anew(show_id)
    flash(
        f"{counted(count, 'piece')} of evidence put away; the log of {saved.show.name} keeps them."
    )
    return redirect(url_for("troubleshoot.index", show_id=show_id))


@blueprint.post("/bring")
def bring(show_id: int) -> BaseResponse:
    """Bring the fixture of the next check up alone, in open white."""
    saved = load(show_id)
    fixture = saved.show.fixture(whole_number(request.form.get("fixture", "")) or 0)
    bring_up(saved, fixture, Look.OPEN)
    return redirect(url_for("troubleshoot.index", show_id=show_id))
