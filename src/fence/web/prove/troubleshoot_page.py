"""The page of Troubleshoot: what was seen, the likeliest causes, the next check, the lines."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from threading import Lock
from types import MappingProxyType

from flask import current_app

from fence.core.model.box import BoxKind
from fence.core.model.fixture import Fixture
from fence.core.model.line import Line
from fence.core.model.network import given_by
from fence.core.model.show import Show
from fence.core.simulation.faults import Trouble
from fence.core.troubleshooting.asking import Next, minutes_of
from fence.core.troubleshooting.belief import symptom_of
from fence.core.troubleshooting.causes import MOST_WEIGHT, WEIGHTS
from fence.core.troubleshooting.evidence import ANSWERS, WITH_VALUE, Answer, Check, Kind
from fence.core.troubleshooting.picture import Chain, chains_of, plain_chain
from fence.core.troubleshooting.search import Finding, Search, Suspect, rests_on
from fence.core.troubleshooting.told import (
    answer_words,
    asks,
    cause_words,
    evidence_words,
    kind_words,
    remedy,
)
from fence.store.evidence import Noted
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import pages
from fence.web.prove.forms import TroubleshootLink
from fence.web.prove.page import order, universes_of
from fence.web.showing import Showing

MOST_SEARCHES = 4
"""Shows of which a search is kept ready."""
MOST_SKIPPED = 100
"""Checks that somebody puts off."""
TOLD = 5
"""Causes that are shown."""
SYMPTOMS = (Answer.DARK, Answer.OTHER_COLOUR, Answer.FLICKER, Answer.OWN_PROGRAM, Answer.RIGHT)
SET_AT_IT = {Trouble.WRONG_ADDRESS, Trouble.WRONG_MODE}
"""Troubles that end when the fixture is set as planned."""
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

    def of(self, saved: SavedShow, weights: Mapping[Trouble, float]) -> Search:
        """That of a show as it stands, with the weights of its kinds of trouble. One that has to be
        made keeps nobody waiting but who asked for it."""
        with self._lock:
            found = self._held.get(saved.id)
        if found is None or found.show != saved.show or found.weights != weights:
            found = Search(saved.show, weights)
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


@dataclass(frozen=True, slots=True)
class Weight:
    """How likely a kind of trouble is to begin with, as typed, beside practice."""

    trouble: Trouble
    words: str
    typed: str
    practice: float


@dataclass(frozen=True, slots=True)
class Places:
    """Where something can be read: devices on the lines that are drawn, and ports of nodes; each
    with the value that a form sends."""

    stops: list[tuple[str, str]]
    ports: list[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Troubleshoot(Showing):
    """What is shown by ``prove/troubleshoot.html``. ``typed`` is what could not be taken, and
    ``problem`` why."""

    template = "prove/troubleshoot.html"
    frame: Frame
    saved: SavedShow
    fixtures: list[Fixture]
    picked: int | None
    positions: list[str]
    universes: list[int]
    symptoms: list[tuple[str, str]]
    weights: list[Weight]
    most_weight: float
    seen: list[Seen]
    told: list[Told]
    question: Question | None
    again: bool
    all_right: bool
    settled: bool
    remedy: str
    chains: list[Chain]
    lines: list[Line]
    places: Places
    skipped: list[str]
    settable: bool
    culprit: Fixture | None
    typed: Mapping[str, str]
    problem: str


def searches() -> Searches:
    """The searches that are kept ready."""
    found: Searches = current_app.extensions.setdefault("fence_searches", Searches())
    return found


def seen_of(saved: SavedShow) -> list[Seen]:
    """All evidence of a show, and whether it still counts."""
    return [
        Seen(
            noted,
            evidence_words(saved.show, noted.evidence),
            rests_on(saved.show, noted.evidence.check) != noted.rests_on,
        )
        for noted in pages().evidence.of(saved.id)
    ]


def finding_of(saved: SavedShow, seen: Sequence[Seen]) -> Finding | None:
    """Where the search of a show stands; None before anything was seen."""
    counting = [one.noted.evidence for one in seen if not one.stale]
    if not counting:
        return None
    return searches().of(saved, pages().evidence.weights(saved.id)).after(counting)


def page(
    saved: SavedShow,
    link: TroubleshootLink,
    *,
    typed: Mapping[str, str] = MappingProxyType({}),
    weighed: Mapping[str, str] = MappingProxyType({}),
    problem: str = "",
) -> str:
    """The page; with what was ``typed`` and could not be taken, in forms and as weights, and
    why."""
    show, fixtures, seen = saved.show, order(saved.show), seen_of(saved)
    skipped = link.skip.data[:MOST_SKIPPED]
    finding = finding_of(saved, seen)
    all_right = finding is not None and symptom_of(finding.belief.evidence) is None
    suspects = finding.suspects if finding else ()
    settled = finding is not None and finding.settled
    again = _again(show, seen, skipped)
    question = None
    if again is not None:
        question = _asking(show, Next(again, 1.0, minutes_of(show, again)))
    elif finding and not all_right and not settled:
        question = _question(finding, skipped)
    top = suspects[0].fault if suspects else None
    line = next((one for one in show.lines if one.id == link.line.data), None)
    chains = _chains(saved, finding, question, line)
    return Troubleshoot(
        frame=frame(saved, "Prove"),
        saved=saved,
        fixtures=fixtures,
        picked=link.fixture.data,
        positions=list(dict.fromkeys(f.position for f in fixtures if f.position)),
        universes=universes_of(show),
        symptoms=[(str(one), answer_words(Kind.LOOK, one)) for one in SYMPTOMS],
        weights=_weights(pages().evidence.weights(saved.id), weighed),
        most_weight=MOST_WEIGHT,
        seen=seen,
        told=[_told(finding, one) for one in suspects[:TOLD]] if finding and not all_right else [],
        again=again is not None,
        all_right=all_right and again is None,
        question=question,
        settled=settled,
        remedy=remedy(show, top) if top and settled else "",
        chains=chains,
        lines=list(show.lines),
        places=_places(saved, chains),
        skipped=skipped,
        settable=top is not None and top.trouble in SET_AT_IT,
        culprit=show.fixture_by_id.get(top.fixture or 0) if top and settled else None,
        typed=typed,
        problem=problem,
    ).rendered()


def _chains(
    saved: SavedShow, finding: Finding | None, question: Question | None, line: Line | None
) -> list[Chain]:
    """The lines to draw: that which somebody chose, else those of what was seen, else the first."""
    asked = question.found.check if question else None
    found = chains_of(finding, asked, line) if finding is not None else []
    if found:
        return found
    lines = [line] if line else list(saved.show.lines[:1])
    return [plain_chain(saved.show, one) for one in lines]


def _places(saved: SavedShow, chains: Sequence[Chain]) -> Places:
    return Places(
        [
            (f"stop:{chain.line}:{link.stop}", f"{link.name} on {chain.name}")
            for chain in chains
            for link in chain.links
            if link.wired
        ],
        [
            (f"port:{box.id}:{port.number}", f"{box.name} port {port.number}")
            for box in saved.show.boxes
            if box.kind is BoxKind.NODE
            for port in box.outputs
            if given_by(box, port) is not None
        ],
    )


def _weights(held: Mapping[Trouble, float], typed: Mapping[str, str]) -> list[Weight]:
    return [
        Weight(trouble, kind_words(trouble), typed.get(trouble, f"{held[trouble]:g}"), practice)
        for trouble, practice in WEIGHTS.items()
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
    return _asking(finding.search.show, found) if found else None


def _again(show: Show, seen: Sequence[Seen], skipped: Sequence[str]) -> Check | None:
    """The first look that has to be made again after a mend."""
    checks = (one.noted.evidence.check for one in seen if one.noted.again)
    return next(
        (one for one in checks if one.id not in skipped and one.fixture in show.fixture_by_id), None
    )


def _asking(show: Show, found: Next) -> Question:
    """A check as a question with its answers."""
    check = found.check
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
