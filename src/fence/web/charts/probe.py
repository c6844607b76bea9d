"""The sheet for a fixture without a manual: one thing to try at a time, and the chart that comes of
it."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace

from flask import Blueprint, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.charts.writing import write_chart_text
from fence.core.model.errors import ChartError, EditError
from fence.core.model.profile import Function, Mode, Part, Profile
from fence.core.simulation.charted import Found
from fence.core.simulation.probe import HAIR, Ask, Kind, probe
from fence.core.simulation.sight import Sight, colour_of
from fence.standins.unknown import SEEN_DARK, Unknown, practice_fixtures
from fence.store.shows import NoSuchShow
from fence.web.charts.forms import ProbeStep
from fence.web.frame import Frame, frame
from fence.web.pages import drafts, load
from fence.web.showing import Showing

blueprint = Blueprint("probe", __name__, url_prefix="/shows/<int:show_id>/charts/probe")

KIND = "probe"
F = Function

WORDS: dict[str, str] = {
    "nothing": "Nothing",
    F.DIMMER: "All the light",
    F.SHUTTER: "It flashes, or stops flashing",
    F.PROGRAM: "It runs by itself",
    F.SOUND: "It follows sound",
    F.FUNCTION_SPEED: "Its program runs at another pace",
    F.SPEED: "It moves at another pace",
    F.CCT: "Warmer or colder",
    F.TINT: "Pinker or greener",
    F.UV: "UV",
    F.PAN: "It turns",
    F.TILT: "It tips",
    F.ZOOM: "Wider or narrower",
    F.FOCUS: "Sharper or softer",
    F.GOBO: "A pattern",
    F.GOBO_ROTATION: "The pattern turns",
    F.COLOUR_WHEEL: "A colour clicks in",
    F.PRISM: "The beam splits",
    F.FAN: "A fan",
    F.RESET: "It resets",
    F.OTHER: "Something else",
}
GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "Light",
        (
            "dimmer",
            "red",
            "green",
            "blue",
            "white",
            "amber",
            "uv",
            "lime",
            "cyan",
            "magenta",
            "yellow",
        ),
    ),
    (
        "Tone and behaviour",
        ("cct", "tint", "shutter/strobe", "program/macro", "sound", "function speed"),
    ),
    ("Movement", ("pan", "tilt", "speed")),
    ("Beam", ("zoom", "focus", "iris", "frost", "gobo", "gobo rotation", "prism", "colour wheel")),
    ("Else", ("fan", "reset", "other", "in between", "as at 255", "as at 0", "something else")),
)
STEP_WORDS: dict[Function, tuple[str, ...]] = {
    F.SHUTTER: ("closed", "open", "strobe, slow to fast", "pulse", "strobe at random"),
    F.PROGRAM: ("no function", "colour programs", "programs", "sound to light"),
    F.SOUND: ("no function", "sound to light"),
    F.COLOUR_WHEEL: ("open", "a colour", "turning"),
    F.GOBO: ("open", "a gobo", "shake", "turning"),
    F.PRISM: ("out", "in", "turning"),
    F.RESET: ("no function", "reset"),
}


@dataclass(frozen=True, slots=True)
class Sheet:
    """A sheet as kept between two answers. ``practice`` is the place of a practice fixture, None
    for a real one."""

    answers: tuple[str, ...] = ()
    practice: int | None = None

    @property
    def unknown(self) -> Unknown | None:
        """The practice fixture, if it is one."""
        fixtures = practice_fixtures()
        return (
            fixtures[self.practice]
            if self.practice is not None and self.practice < len(fixtures)
            else None
        )

    def dump(self) -> bytes:
        """The sheet as it is kept."""
        return json.dumps({"answers": self.answers, "practice": self.practice}).encode()


@dataclass(frozen=True, slots=True)
class Lamp:
    """What a practice fixture shows, for a drawing: colour as ``#rrggbb``, light 0 to 1, turn and
    tip in degrees."""

    colour: str
    light: float
    turn: int
    tip: int
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Choice:
    """A button: what it says and the answer that it sends."""

    words: str
    answer: str


def _load(draft_id: str) -> Sheet:
    draft = drafts().get(draft_id)
    if draft.filename != KIND:
        raise NoSuchShow("That sheet is not kept any more: begin another one.")
    held = json.loads(draft.content)
    return Sheet(tuple(held["answers"]), held["practice"])


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsProbeStart(Showing):
    """What is shown by ``charts/probe_start.html``."""

    template = "charts/probe_start.html"
    frame: Frame
    practice: tuple[Unknown, ...]


@blueprint.get("")
def index(show_id: int) -> str:
    """Begin: a real fixture, or one to practise on."""
    return ChartsProbeStart(
        frame=frame(load(show_id), "Charts"),
        practice=practice_fixtures(),
    ).rendered()


@blueprint.post("")
def begin(show_id: int) -> BaseResponse:
    """Open a sheet."""
    form = ProbeStep.sent()
    load(show_id)
    practice = form.practice.data
    if practice is not None and not 0 <= practice < len(practice_fixtures()):
        raise EditError("There is no such practice fixture.")
    draft = drafts().keep(KIND, Sheet(practice=practice).dump())
    return redirect(url_for("probe.sheet", show_id=show_id, sheet_id=draft.id))


@blueprint.get("/<sheet_id>")
def sheet(show_id: int, sheet_id: str) -> str:
    """The next thing to try, or what was found."""
    return _page(show_id, sheet_id, _load(sheet_id))


@blueprint.post("/<sheet_id>")
def answer(show_id: int, sheet_id: str) -> BaseResponse | tuple[str, int]:
    """Take an answer, take the last one back, or let the practice fixture answer."""
    form = ProbeStep.sent()
    held = _load(sheet_id)
    problem = ""
    what = form.do.data
    if what == "back":
        held = replace(held, answers=held.answers[:-1])
    elif what in {"let", "rest"}:
        held = _answered(held, all_of_them=what == "rest")
    else:
        said = (form.answer.data or "").strip()
        try:
            if not said:
                raise ChartError("Choose what was seen, or write it in a few words.")
            grown = replace(held, answers=(*held.answers, said))
            probe(grown.answers)
            held = grown
        except ChartError as error:
            problem = str(error)
    if problem:
        return _page(show_id, sheet_id, held, problem), 422
    drafts().keep(KIND, held.dump(), draft_id=sheet_id)
    return redirect(url_for("probe.sheet", show_id=show_id, sheet_id=sheet_id))


def _answered(held: Sheet, *, all_of_them: bool) -> Sheet:
    unknown = held.unknown
    if unknown is None:
        raise EditError("This is a real fixture: only you can see what it does.")
    while isinstance(step := probe(held.answers), Ask):
        held = replace(held, answers=(*held.answers, unknown.answer(step)))
        if not all_of_them:
            break
    return held


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsProbe(Showing):
    """What is shown by ``charts/probe.html``."""

    template = "charts/probe.html"
    frame: Frame
    sheet_id: str
    answers: tuple[str, ...]
    ask: Ask | None
    found: Found | None
    groups: tuple[tuple[str, tuple[Choice, ...]], ...]
    step_words: tuple[str, ...]
    unknown: Unknown | None
    lamps: tuple[Lamp, ...]
    problem: str


def _page(show_id: int, sheet_id: str, held: Sheet, problem: str = "") -> str:
    step = probe(held.answers)
    unknown = held.unknown
    lamps: tuple[Lamp, ...] = ()
    if unknown is not None and isinstance(step, Ask):
        lamps = tuple(lamp_of(unknown.see(levels)) for levels in (step.frame_before, step.frame))
    return ChartsProbe(
        frame=frame(load(show_id), "Charts"),
        sheet_id=sheet_id,
        answers=held.answers,
        ask=step if isinstance(step, Ask) else None,
        found=step if isinstance(step, Found) else None,
        groups=choices_of(step) if isinstance(step, Ask) else (),
        step_words=_step_words(step) if isinstance(step, Ask) else (),
        unknown=unknown,
        lamps=lamps,
        problem=problem,
    ).rendered()


def choices_of(ask: Ask) -> tuple[tuple[str, tuple[Choice, ...]], ...]:
    """The buttons for an answer, in groups; none where it is said in words."""
    if ask.kind is Kind.STEP:
        return ()
    groups = []
    for title, answers in GROUPS:
        if offered := tuple(
            Choice(WORDS.get(a, a.capitalize()), a) for a in answers if a in ask.choices
        ):
            groups.append((title, offered))
    hairs = tuple(
        Choice(f"A hair of {a.removeprefix(HAIR)}", a) for a in ask.choices if a.startswith(HAIR)
    )
    return (("Only a hair", hairs), *groups) if hairs else tuple(groups)


def _step_words(ask: Ask) -> tuple[str, ...]:
    usual = STEP_WORDS.get(ask.function, ("no function", "on")) if ask.function else ()
    return tuple(dict.fromkeys((*ask.choices, *usual)))


def lamp_of(sight: Sight) -> Lamp:
    """A sight as a drawing needs it, with the same in words for those who do not see the
    drawing."""
    values = dict(sight.values)
    colour = "#{:02x}{:02x}{:02x}".format(*colour_of(sight))
    words = [
        "dark" if sight.intensity < 0.002 else f"light at {max(1, round(sight.intensity * 100))} %"
    ]
    if sight.intensity >= 0.002:
        lit = dict.fromkeys(name for (name, _), level in sight.light if level > 0.002)
        words[0] += f", {' + '.join(lit)}"
    if sight.flashing:
        words.append(f"flashes: {sight.flashing}")
    if sight.running:
        words.append(f"runs by itself: {sight.running}")
    seen = SEEN_DARK if sight.intensity < 0.002 else {function for function, _ in sight.values}
    words += [
        f"{function} at {value * 100:.1f} %" for function, value in sight.values if function in seen
    ]
    words += [f"{function}: {doing}" for function, doing in sight.doings]
    turn, tip = (round((values.get(function, 0.5) - 0.5) * 120) for function in (F.PAN, F.TILT))
    return Lamp(colour, round(sight.intensity, 3), turn, tip, tuple(words))


def chart_text_of(sheet_id: str) -> str:
    """What a finished sheet found, as the text of a chart. ``EditError`` while it is not
    finished."""
    found = probe(_load(sheet_id).answers)
    if isinstance(found, Ask) or not found.channels:
        raise EditError("This sheet has found no channel yet: go on with it first.")
    mode = Mode(f"{len(found.channels)} channel", (Part(len(found.channels), found.channels),))
    return write_chart_text(Profile("probed", "", "Unknown", (mode,)))
