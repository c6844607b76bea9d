"""The charts: the profiles that a show uses, the shelf that all shows share, and entering a chart as text."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from itertools import islice

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.changes import edits
from fence.core.changes.edits import free_name
from fence.core.charts.reading import MOST_WORDS, Taken, profile_from, read_chart_text
from fence.core.charts.remarks import check_chart, repeated
from fence.core.charts.writing import write_chart_text
from fence.core.checks import MOST_FINDINGS
from fence.core.modes.beside import compare_modes
from fence.core.words.errors import ChartError, EditError, FenceError
from fence.core.words.profile import Function, Mode, Profile, Setter, SetterKind
from fence.core.words.show import Show
from fence.core.words.text import slug
from fence.store.library import LONGEST_WORDING
from fence.web.charts.choose import advice_for
from fence.web.charts.forms import ChartForm
from fence.web.charts.page import (
    MOST_LINES_SHOWN,
    MOST_REMARKS,
    ChartLine,
    Reading,
    effect_on,
    is_unclear,
    modes_shown,
)
from fence.web.charts.probe import chart_text_of
from fence.web.frame import frame
from fence.web.pages import library, load, load_for_edit, save, who

blueprint = Blueprint("charts", __name__, url_prefix="/shows/<int:show_id>/charts")


# ---- the shelf


@blueprint.get("")
def index(show_id: int) -> str:
    """All charts that can be planned with."""
    saved = load(show_id)
    used = Counter(fixture.profile for fixture in saved.show.fixtures)
    charts = library().charts()
    newest = {chart.profile.id: chart.profile for chart in charts}
    held = saved.show.profile_by_id

    def line(profile: Profile) -> ChartLine:
        newer = newest.get(profile.id)
        newer = newer if newer and newer.revision > profile.revision else None
        return ChartLine(profile, used[profile.id], newer, tuple(check_chart(profile)))

    return render_template(
        "charts/index.html",
        frame=frame(saved, "Charts"),
        in_show=[line(profile) for profile in saved.show.profiles],
        on_shelf=[line(chart.profile) for chart in charts if chart.profile.id not in held],
        retired=library().charts(retired=True),
        used_modes=Counter((fixture.profile, fixture.mode) for fixture in saved.show.fixtures),
    )


@blueprint.post("/<chart_id>/retire")
def retire(show_id: int, chart_id: str) -> BaseResponse:
    """Offer a chart no more; shows that use it keep it."""
    library().retire(chart_id, who=who())
    flash("Retired: it is offered no more. Shows that use it keep it.")
    return redirect(url_for("charts.index", show_id=show_id))


@blueprint.post("/<chart_id>/bring-back")
def bring_back(show_id: int, chart_id: str) -> BaseResponse:
    """Offer a retired chart again."""
    library().bring_back(chart_id, who=who())
    return redirect(url_for("charts.index", show_id=show_id))


@blueprint.post("/<chart_id>/copy")
def copy(show_id: int, chart_id: str) -> BaseResponse:
    """Copy a chart, with all its modes, and open the copy."""
    chart = load(show_id).show.profile_by_id.get(chart_id) or library().newest(chart_id)
    if chart is None:
        raise EditError("There is no such chart.")
    model = f"{chart.model} copy"
    made = library().save(replace(chart, id=_free_id(chart.maker, model), model=model), who=who())
    return redirect(url_for("charts.edit", show_id=show_id, chart_id=made.id))


@blueprint.get("/<chart_id>/modes")
def modes(show_id: int, chart_id: str) -> str:
    """All modes of a chart side by side, for the fixtures of this show."""
    saved = load(show_id)
    profile = saved.show.profile_by_id.get(chart_id) or library().newest(chart_id)
    if profile is None or not profile.modes:
        raise EditError("There is no such chart.")
    return render_template(
        "charts/modes.html",
        frame=frame(saved, "Charts"),
        profile=profile,
        found=compare_modes(saved.show, profile),
        most=MOST_FINDINGS,
        ids=",".join(str(fixture.id) for fixture in saved.show.fixtures if fixture.profile == profile.id),
        advice=[line for line in advice_for(saved.show) if line.fixtures[0].profile == profile.id],
    )


# ---- a newer chart for the show


@blueprint.route("/<chart_id>/update", methods=["GET", "POST"])
def update(show_id: int, chart_id: str) -> BaseResponse | str:
    """Bring the show's chart to the library's newest revision, seen before it is done."""
    saved = load(show_id)
    newest, held = library().newest(chart_id), saved.show.profile_by_id.get(chart_id)
    if newest is None or held is None:
        raise EditError("There is no newer chart for this show.")
    if request.method == "GET":
        return render_template(
            "charts/update.html",
            frame=frame(saved, "Charts"),
            held=held,
            newest=newest,
            effect=effect_on(saved.show, newest),
            revisions=library().revisions(chart_id),
        )
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    save(before, edits.update_chart(before.show, newest))
    flash(f"{newest.title} is at revision {newest.revision} now.")
    return redirect(url_for("charts.index", show_id=show_id))


@blueprint.get("/<chart_id>/revisions/<int:number>")
def revision(show_id: int, chart_id: str, number: int) -> str:
    """One revision of a chart, to read: what it said then, beside the others."""
    saved = load(show_id)
    known = {profile.revision: profile for profile in library().revisions(chart_id)}
    held = saved.show.profile_by_id.get(chart_id)
    if held is not None:
        known.setdefault(held.revision, held)
    if number not in known:
        raise EditError("There is no such revision of this chart.")
    return render_template(
        "charts/revision.html",
        frame=frame(saved, "Charts"),
        profile=known[number],
        text=write_chart_text(known[number]),
        others=sorted(known),
        held=held.revision if held else None,
    )


# ---- a chart as text


@blueprint.post("/read")
def read(show_id: int) -> str:
    """What the text is understood as so far, for the page while it is typed."""
    form = ChartForm()
    reading = _reading(load(show_id).show, form, request.form.get("chart", ""))
    return render_template("charts/_reading.html", reading=reading, functions=list(Function), show_id=show_id)


@blueprint.route("/paste", methods=["GET", "POST"])
def paste(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Enter a new chart as text."""
    if request.method == "GET":
        sheet = request.args.get("sheet", "")
        text = chart_text_of(sheet) if sheet else ""
        form = ChartForm(formdata=None, switches=9, highest=512, setter=str(SetterKind.MENU), text=text)
    else:
        form = ChartForm()
    return _entered(show_id, form, None)


@blueprint.route("/<chart_id>/edit", methods=["GET", "POST"])
def edit(show_id: int, chart_id: str) -> BaseResponse | str | tuple[str, int]:
    """Change a chart; saving makes its next revision."""
    chart = library().newest(chart_id) or load(show_id).show.profile_by_id.get(chart_id)
    if chart is None:
        raise EditError("There is no such chart.")
    form = ChartForm(formdata=None, **_form_values(chart)) if request.method == "GET" else ChartForm()
    return _entered(show_id, form, chart)


def _entered(show_id: int, form: ChartForm, chart: Profile | None) -> BaseResponse | str | tuple[str, int]:
    saved = load(show_id)
    problem = ""
    if request.method == "POST" and request.form.get("do") == "repeat":
        try:
            form.text.data = _with_repeated(form)
        except FenceError as error:
            problem = str(error)
    elif request.method == "POST":
        if form.validate():
            try:
                return _kept(show_id, form, chart)
            except (ChartError, EditError) as error:
                problem = str(error)
        else:
            problem = "; ".join(f"{form[name].label.text}: {messages[0]}" for name, messages in form.errors.items())
    page = render_template(
        "charts/paste.html",
        frame=frame(saved, "Charts"),
        form=form,
        chart=chart,
        revisions=library().revisions(chart.id) if chart else [],
        in_show=chart is not None and chart.id in saved.show.profile_by_id,
        reading=_reading(saved.show, form, chart.id if chart else ""),
        functions=list(Function),
        show_id=show_id,
        problem=problem,
    )
    return (page, 422) if problem else page


def _kept(show_id: int, form: ChartForm, chart: Profile | None) -> BaseResponse:
    """Save to the library, and where it is asked for put the new revision into the show."""
    read = _profile(form, chart, _own_words())
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    profile = library().save(read, who=who())
    for wording, function in _said_here():
        library().teach(wording, function)
    flash(f"{profile.title} is on the shelf, revision {profile.revision}.")
    if profile.id in before.show.profile_by_id and request.form.get("into_show"):
        save(before, edits.update_chart(before.show, profile))
    if chart is None:
        kind = f"{profile.id} | {profile.modes[0].name}"
        return redirect(url_for("rig.add", show_id=show_id, kind=kind))
    return redirect(url_for("charts.index", show_id=show_id))


def _with_repeated(form: ChartForm) -> str:
    """The text with one more mode: one of its modes with some channels as often as there are cells."""
    text = form.text.data or ""
    draft = read_chart_text(text, words=_own_words())
    profile = profile_from(draft, profile_id="draft", maker="", model="")
    mode = profile.mode(request.form.get("of", "")) or (profile.modes[0] if profile.modes else None)
    numbers = [request.form.get(name, type=int) for name in ("first", "last", "times")]
    if mode is None or None in numbers:
        raise ChartError("Say which channels are repeated, and how many times: all three are whole numbers.")
    first, last, times = (number or 0 for number in numbers)
    made = repeated(mode, first, last, times)
    return text.rstrip() + "\n\n" + write_chart_text(replace(profile, modes=(made,)))


def _own_words() -> list[tuple[str, Function]]:
    """What was taught before, and what the person said here that unclear wordings mean."""
    return [*library().wordings(), *_said_here()]


def _said_here() -> list[tuple[str, Function]]:
    known = {str(function): function for function in Function}
    pairs = zip(request.form.getlist("wording"), request.form.getlist("means"), strict=False)
    said = ((wording[:LONGEST_WORDING], known[meant]) for wording, meant in pairs if wording.strip() and meant in known)
    return list(islice(said, MOST_WORDS))


def _reading(show: Show, form: ChartForm, chart_id: str) -> Reading | None:
    text = form.text.data or ""
    if not text.strip():
        return None
    draft = read_chart_text(text, words=_own_words())
    taken = Counter(line.taken for line in draft.lines)
    profile, effect = None, None
    if not draft.empty:
        try:
            held = library().newest(chart_id) or show.profile_by_id.get(chart_id) if chart_id else None
            profile = _profile(form, held, _own_words())
            effect = effect_on(show, profile) if profile.id in show.profile_by_id else None
        except FenceError:
            profile = profile_from(draft, profile_id="draft", maker="", model="")
    remarks = tuple(check_chart(profile)[:MOST_REMARKS]) if profile else ()
    lines = [line for line in draft.lines if line.taken is not Taken.BLANK]
    wordings = {channel.name: "" for mode in draft.modes for channel in mode.channels if is_unclear(channel)}
    wordings.update({wording: str(function) for wording, function in _said_here()})
    return Reading(
        draft,
        tuple(modes_shown(draft)),
        tuple(lines[:MOST_LINES_SHOWN]),
        max(0, len(lines) - MOST_LINES_SHOWN),
        tuple(wordings.items())[:24],
        profile,
        remarks,
        effect,
        taken[Taken.SURE],
        taken[Taken.GUESS],
        taken[Taken.LOST],
    )


def _profile(form: ChartForm, chart: Profile | None, words: Sequence[tuple[str, Function]]) -> Profile:
    """The profile that the form says. Modes that text has no place for are kept from the chart before."""
    draft = read_chart_text(form.text.data or "", words=words)
    maker, model = (form.maker.data or "").strip(), (form.model.data or "").strip()
    chart_id = chart.id if chart else _free_id(maker, model)
    read_modes = profile_from(draft, profile_id=chart_id, maker=maker, model=model).modes
    kept: tuple[Mode, ...] = ()
    if chart is not None:
        kept = tuple(mode for mode in chart.modes if len(mode.parts) > 1 or not mode.footprint)
    base = replace(chart, modes=()) if chart else Profile(chart_id, maker, model, ())
    return replace(
        base,
        maker=maker,
        model=model,
        modes=(*read_modes, *(mode for mode in kept if all(mode.name != other.name for other in read_modes))),
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
    )


def _setter(form: ChartForm, base: Setter) -> Setter:
    count = form.switches.data or base.switches
    beyond = tuple(number for number in base.fixed_on if number > count)
    return replace(
        base,
        kind=SetterKind(form.setter.data) if form.setter.data in set(SetterKind) else base.kind,
        switches=count,
        fixed_on=beyond,
        fixed_off=tuple(number for number in base.fixed_off if number > count),
        zero_based=bool(form.zero_based.data),
        highest=form.highest.data or base.highest,
        steps=(form.steps.data or "").strip(),
    )


def _free_id(maker: str, model: str) -> str:
    stem = slug(f"{maker} {model}", "chart")
    taken = {chart.profile.id for retired in (False, True) for chart in library().charts(retired=retired)}
    return free_name(stem, taken).replace(" ", "-")


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
    }
