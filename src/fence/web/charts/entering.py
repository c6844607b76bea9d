"""Entering a chart as text: a new one pasted, or one that is there changed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import PurePath

from flask import Blueprint, flash, redirect, request, url_for
from pydantic import ValidationError
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.charts.draft import Draft, Taken, profile_from
from fence.core.charts.reading import MOST_ANSWERS, MOST_WORDS, read_chart_text
from fence.core.charts.remarks import check_chart, repeated
from fence.core.charts.roles import Role
from fence.core.charts.rows.answers import Answer
from fence.core.charts.writing import write_chart_text
from fence.core.model.errors import ChartError, EditError, FenceError
from fence.core.model.profile import Function, Mode, Profile, Setter, SetterKind
from fence.core.model.show import Show
from fence.core.model.text import LONGEST_ID, slug
from fence.formats.chart_sheets import ACCEPTED, read_chart_file
from fence.formats.errors import MOST_BYTES, FileError
from fence.store.drafts import Drafts
from fence.store.rows import PROFILE
from fence.store.wordings import LONGEST_WORDING
from fence.web.charts.answers import ChartAnswers, said_of
from fence.web.charts.forms import ChartForm, EnteringLink, EnteringStep, numbers_in
from fence.web.charts.page import (
    AS_IT_STANDS,
    MOST_COLUMNS_SHOWN,
    MOST_LINES_SHOWN,
    MOST_REMARKS,
    MOST_TABLES_SHOWN,
    Reading,
    effect_on,
    is_unclear,
    lines_shown,
    modes_shown,
    tables_shown,
    ways_shown,
)
from fence.web.charts.probe import chart_text_of
from fence.web.frame import Frame, frame
from fence.web.pages import drafts, library, load, load_for_edit, save, who, wordings
from fence.web.showing import Part, Showing

TOLD = "a chart said by a fixture"
blueprint = Blueprint("entering", __name__, url_prefix="/shows/<int:show_id>/charts")


@dataclass(frozen=True, slots=True, kw_only=True)
class Choices(Part):
    """What can be chosen on the page: what a wording means, what a column holds, what a line is."""

    functions: Sequence[str]
    roles: Sequence[str]
    answers: Sequence[tuple[str, str]]


CHOICES = Choices(
    functions=list(Function),
    roles=[str(role) for role in Role],
    answers=[
        (str(Answer.RIGHT), "right as read"),
        (str(Answer.CHANNEL), "a channel"),
        (str(Answer.LEVELS), "levels"),
        (str(Answer.ABOVE), "goes with the line above"),
        (str(Answer.LEAVE), "leave out"),
        ("", "open again"),
    ],
)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsReading(Showing):
    """What is shown by ``charts/_reading.html``."""

    template = "charts/_reading.html"
    reading: Reading | None
    show_id: int
    choices: Choices


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsPaste(Showing):
    """What is shown by ``charts/paste.html``."""

    template = "charts/paste.html"
    frame: Frame
    form: ChartForm
    chart: Profile | None
    revisions: list[Profile]
    in_show: bool
    reading: Reading | None
    show_id: int
    problem: str
    notes: tuple[str, ...]
    choices: Choices


@blueprint.post("/read")
def read(show_id: int) -> str:
    """What the text is understood as so far, for the page while it is typed."""
    step = EnteringStep.sent()
    form = ChartForm()
    reading = _reading(load(show_id).show, form, step.chart.data)
    return ChartsReading(reading=reading, show_id=show_id, choices=CHOICES).rendered()


@blueprint.route("/paste", methods=["GET", "POST"])
def paste(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Enter a new chart as text."""
    link = EnteringLink.linked()
    if request.method == "GET":
        sheet = link.sheet.data
        text = chart_text_of(sheet) if sheet else ""
        form = ChartForm(
            formdata=None, switches=9, highest=512, setter=str(SetterKind.MENU), text=text
        )
        if told := link.said.data:
            form = ChartForm(formdata=None, **_form_values(told_chart(told)))
    else:
        form = ChartForm()
    return _entered(show_id, form, None)


@blueprint.route("/<chart_id>/edit", methods=["GET", "POST"])
def edit(show_id: int, chart_id: str) -> BaseResponse | str | tuple[str, int]:
    """Change a chart; saving makes its next revision."""
    chart = library().newest(chart_id) or load(show_id).show.profile_by_id.get(chart_id)
    if chart is None:
        raise EditError("There is no such chart.")
    form = (
        ChartForm(formdata=None, **_form_values(chart)) if request.method == "GET" else ChartForm()
    )
    return _entered(show_id, form, chart)


def _entered(
    show_id: int, form: ChartForm, chart: Profile | None
) -> BaseResponse | str | tuple[str, int]:
    saved = load(show_id)
    problem = ""
    notes: tuple[str, ...] = ()
    if request.method == "POST" and request.form.get("do") in WRITERS:
        try:
            form.text.data, notes = WRITERS[request.form["do"]](form)
        except FenceError as error:
            problem = str(error)
    elif request.method == "POST":
        if form.validate():
            try:
                return _kept(show_id, form, chart)
            except (ChartError, EditError) as error:
                problem = str(error)
        else:
            problem = "; ".join(
                f"{form[name].label.text}: {messages[0]}" for name, messages in form.errors.items()
            )
    page = ChartsPaste(
        frame=frame(saved, "Charts"),
        form=form,
        chart=chart,
        revisions=library().revisions(chart.id) if chart else [],
        in_show=chart is not None and chart.id in saved.show.profile_by_id,
        reading=_reading(saved.show, form, chart.id if chart else ""),
        show_id=show_id,
        problem=problem,
        notes=notes,
        choices=CHOICES,
    ).rendered()
    return (page, 422) if problem else page


def _kept(show_id: int, form: ChartForm, chart: Profile | None) -> BaseResponse:
    """Save to the library, and where it is asked for put the new revision into the show."""
    step = EnteringStep.sent()
    read = _profile(form, chart, _draft(form.text.data or ""))
    before = load_for_edit(show_id)
    profile = library().save(read, who=who())
    for wording, function in _said_here():
        wordings().teach(wording, function)
    flash(f"{profile.title} is in the library, revision {profile.revision}.")
    if profile.id in before.show.profile_by_id and step.into_show.data:
        save(before, edits.update_chart(before.show, profile))
    if chart is None:
        kind = f"{profile.id} | {profile.modes[0].name}"
        return redirect(url_for("add.index", show_id=show_id, kind=kind))
    return redirect(url_for("charts.index", show_id=show_id))


def _with_repeated(form: ChartForm) -> tuple[str, tuple[str, ...]]:
    """The text with one more mode: one of its modes with some channels as often as there are
    cells."""
    step = EnteringStep.sent()
    text = form.text.data or ""
    profile = profile_from(_draft(text), profile_id="draft", maker="", model="")
    mode = profile.mode(step.of.data) or (profile.modes[0] if profile.modes else None)
    numbers = [request.form.get(name, type=int) for name in ("first", "last", "times")]
    if mode is None or None in numbers:
        raise ChartError(
            "Say which channels are repeated, and how many times: all three are whole numbers."
        )
    first, last, times = (number or 0 for number in numbers)
    made = repeated(mode, first, last, times)
    return text.rstrip() + "\n\n" + write_chart_text(replace(profile, modes=(made,))), ()


def _with_file(form: ChartForm) -> tuple[str, tuple[str, ...]]:
    """The text with that of a file below what is there."""
    text, file = form.text.data or "", request.files.get("file")
    if file is None or not file.filename:
        raise FileError(f"Choose a file first. {ACCEPTED}")
    try:
        read = read_chart_file(file.filename, file.read(MOST_BYTES + 1))
    except FileError as error:
        raise FileError(f"{PurePath(file.filename).name[:80]}: {error}") from None
    return f"{text.rstrip()}\n\n{read.text}" if text.strip() else read.text, read.notes


WRITERS: dict[str, Callable[[ChartForm], tuple[str, tuple[str, ...]]]] = {
    "repeat": _with_repeated,
    "file": _with_file,
}
"""What writes into the text instead of saving it: the text then, and what to say about it."""


def _draft(text: str) -> Draft:
    """What a text is understood as, with what the person taught and said."""
    said = _said(text)
    meant = EnteringStep.sent().way.data
    way = None if not meant else "" if meant == AS_IT_STANDS else meant
    return read_chart_text(
        text, words=_own_words(), answers=said.lines, columns=said.columns, way=way
    )


def _said(text: str) -> ChartAnswers:
    """What the person said in this form of lines and columns."""
    form = request.form
    lines = zip(form.getlist("line"), form.getlist("line_words"), strict=False)
    heads = islice(
        zip(form.getlist("head"), form.getlist("head_words"), strict=False), MOST_TABLES_SHOWN
    )
    return said_of(
        text,
        [(line, words, form.get(f"is-{line}", "")) for line, words in islice(lines, MOST_ANSWERS)],
        [
            (line, words, str(column), held)
            for line, words in heads
            for column in range(MOST_COLUMNS_SHOWN)
            if (held := form.get(f"column-{line}-{column}"))
        ],
    )


def _own_words() -> list[tuple[str, Function]]:
    """What was taught before, and what the person said here that unclear wordings mean."""
    return [*wordings().all(), *_said_here()]


def _said_here() -> list[tuple[str, Function]]:
    form = EnteringStep.sent()
    known = {str(function): function for function in Function}
    pairs = zip(form.wording.data, form.means.data, strict=False)
    said = (
        (wording[:LONGEST_WORDING], known[meant])
        for wording, meant in pairs
        if wording.strip() and meant in known
    )
    return list(islice(said, MOST_WORDS))


def _reading(show: Show, form: ChartForm, chart_id: str) -> Reading | None:
    text = form.text.data or ""
    if not text.strip():
        return None
    draft = _draft(text)
    taken = Counter(line.taken for line in draft.lines)
    profile, effect = None, None
    if not draft.empty:
        try:
            held = (
                library().newest(chart_id) or show.profile_by_id.get(chart_id) if chart_id else None
            )
            profile = _profile(form, held, draft)
            effect = effect_on(show, profile) if profile.id in show.profile_by_id else None
        except FenceError:
            profile = profile_from(draft, profile_id="draft", maker="", model="")
    remarks = check_chart(profile)[:MOST_REMARKS] if profile else ()
    said = _said(text)
    lines = list(lines_shown(draft, said))
    wordings = {
        channel.name: "" for mode in draft.modes for channel in mode.channels if is_unclear(channel)
    }
    wordings.update({wording: str(function) for wording, function in _said_here()})
    return Reading(
        draft,
        tuple(ways_shown(draft, asked=bool(EnteringStep.sent().way.data))),
        tuple(modes_shown(draft)),
        tuple(lines[:MOST_LINES_SHOWN]),
        max(0, len(lines) - MOST_LINES_SHOWN),
        tuple(tables_shown(draft)),
        tuple(wordings.items())[:24],
        profile,
        remarks,
        effect,
        taken[Taken.SURE],
        taken[Taken.GUESS],
        taken[Taken.LOST],
    )


def _profile(form: ChartForm, chart: Profile | None, draft: Draft) -> Profile:
    """The profile that the form says, with what its text was understood as. Modes that text has no
    place for are kept from the chart before."""
    maker, model = (form.maker.data or "").strip(), (form.model.data or "").strip()
    chart_id = chart.id if chart else free_id(maker, model)
    read_modes = profile_from(draft, profile_id=chart_id, maker=maker, model=model).modes
    kept: tuple[Mode, ...] = ()
    if chart is not None:
        kept = tuple(mode for mode in chart.modes if len(mode.parts) > 1 or not mode.footprint)
    base = replace(chart, modes=()) if chart else Profile(chart_id, maker, model, ())
    return replace(
        base,
        maker=maker,
        model=model,
        modes=(
            *read_modes,
            *(mode for mode in kept if all(mode.name != other.name for other in read_modes)),
        ),
        kind=(form.kind.data or "").strip(),
        setter=_setter(form, base.setter),
        listens=(form.listens.data or "").strip(),
        no_signal=(form.no_signal.data or "").strip(),
        connectors_in=(form.connectors_in.data or "").strip(),
        connectors_out=(form.connectors_out.data or "").strip(),
        rdm=bool(form.rdm.data),
        wireless=bool(form.wireless.data),
        weight_kg=form.weight_kg.data,
        power_w=form.power_w.data,
        unit_load=1.0 if form.unit_load.data is None else form.unit_load.data,
        passes_unpowered=not form.blocks_unpowered.data,
        battery_hours=form.battery_hours.data,
        charge_hours=form.charge_hours.data,
        battery_stays=bool(form.battery_stays.data),
        charge_note=(form.charge_note.data or "").strip(),
        source=(form.source.data or "").strip() or base.source,
    )


def _setter(form: ChartForm, base: Setter) -> Setter:
    return replace(
        base,
        kind=SetterKind(form.setter.data) if form.setter.data in set(SetterKind) else base.kind,
        switches=form.switches.data or base.switches,
        fixed_on=numbers_in(form.fixed_on.data or ""),
        fixed_off=numbers_in(form.fixed_off.data or ""),
        on_is_up=not form.on_is_down.data,
        first_is_left=not form.from_right.data,
        confirm=(form.confirm.data or "").strip(),
        shown_before=(form.shown_before.data or "").strip(),
        display_flips=bool(form.display_flips.data),
        one_at_a_time=bool(form.one_at_a_time.data),
        zero_based=bool(form.zero_based.data),
        highest=form.highest.data or base.highest,
        steps=(form.steps.data or "").strip(),
    )


def _form_values(chart: Profile) -> dict[str, object]:
    setter = chart.setter
    return {
        "maker": chart.maker,
        "model": chart.model,
        "kind": chart.kind,
        "text": write_chart_text(chart),
        "setter": str(setter.kind),
        "switches": setter.switches,
        "zero_based": setter.zero_based,
        "on_is_down": not setter.on_is_up,
        "from_right": not setter.first_is_left,
        "fixed_on": ", ".join(map(str, setter.fixed_on)),
        "fixed_off": ", ".join(map(str, setter.fixed_off)),
        "confirm": setter.confirm,
        "shown_before": setter.shown_before,
        "display_flips": setter.display_flips,
        "one_at_a_time": setter.one_at_a_time,
        "highest": setter.highest,
        "steps": setter.steps,
        "listens": chart.listens,
        "no_signal": chart.no_signal,
        "connectors_in": chart.connectors_in,
        "connectors_out": chart.connectors_out,
        "rdm": chart.rdm,
        "wireless": chart.wireless,
        "weight_kg": chart.weight_kg,
        "power_w": chart.power_w,
        "unit_load": chart.unit_load,
        "blocks_unpowered": not chart.passes_unpowered,
        "battery_hours": chart.battery_hours,
        "charge_hours": chart.charge_hours,
        "battery_stays": chart.battery_stays,
        "charge_note": chart.charge_note,
        "source": chart.source,
    }


def keep_told(kept: Drafts, chart: Profile, draft_id: str) -> None:
    """Keep a chart that a fixture told until it is completed."""
    kept.keep(TOLD, PROFILE.dump_json(chart), draft_id=draft_id)


def told_chart(draft_id: str) -> Profile:
    """A chart that waits to be completed; ``EditError`` for what is none."""
    draft = drafts().get(draft_id)
    try:
        return PROFILE.validate_json(draft.content)
    except ValidationError:
        raise EditError("That chart is not waiting any more: ask the fixture once more.") from None


def free_id(maker: str, model: str) -> str:
    """An id for a new chart that none on the shelf or retired has."""
    stem = slug(f"{maker} {model}", "chart")
    taken = {
        chart.profile.id for retired in (False, True) for chart in library().charts(retired=retired)
    }
    names = (f"{stem[: LONGEST_ID - len(str(n)) - 1]}-{n}" for n in range(2, len(taken) + 3))
    return stem if stem not in taken else next(name for name in names if name not in taken)
