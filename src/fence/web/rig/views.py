"""The rig: the list of fixtures, changes to one or many, adding a run."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse
from wtforms.fields.choices import SelectChoice

from fence.core.changes import edits
from fence.core.changes.prose import describe
from fence.core.words.address import parse_address
from fence.core.words.errors import EditError, FenceError
from fence.core.words.fixture import Fixture
from fence.core.words.profile import Profile
from fence.core.words.show import Show
from fence.store.shows import SavedShow
from fence.web.frame import frame
from fence.web.pages import asked_by_htmx, library, load, load_for_edit, save
from fence.web.rig.forms import AddForm, BulkForm, FixtureForm
from fence.web.rig.page import COLUMNS, ROWS_SHOWN, SORTS, found_by, lines_of, matches, mode_choices, preview_of

blueprint = Blueprint("rig", __name__, url_prefix="/shows/<int:show_id>/rig")

KIND_JOIN = " | "


# ---- the list


@blueprint.get("")
def index(show_id: int) -> str:
    """The fixture list, filtered and sorted."""
    saved = load(show_id)
    if asked_by_htmx() and request.args.get("part") == "list":
        return render_template("rig/_list.html", **_list_values(saved))
    return _page(saved, BulkForm(formdata=None), picked=())


def _page(saved: SavedShow, form: BulkForm, *, picked: Sequence[int], problem: str = "") -> str:
    form.mode.choices = mode_choices(saved.show)
    return render_template(
        "rig/index.html",
        frame=frame(saved, "Rig"),
        form=form,
        picked=set(picked),
        problem=problem,
        positions=[position.name for position in saved.show.positions],
        **_list_values(saved),
    )


def _list_values(saved: SavedShow) -> dict[str, object]:
    analysis = saved.analysis
    words = request.args.get("q", "").casefold().strip()
    position = request.args.get("position", "")
    sort = request.args.get("sort", "rig")
    sort = sort if sort in SORTS else "rig"
    backwards = request.args.get("dir") == "down"
    lines = [line for line in lines_of(saved.show, analysis) if matches(line, words, position)]
    lines.sort(key=SORTS[sort], reverse=backwards)
    most = max(ROWS_SHOWN, min(request.args.get("most", ROWS_SHOWN, type=int), 50_000))
    return {
        "saved": saved,
        "lines": lines[:most],
        "found": len(lines),
        "all": len(saved.show.fixtures),
        "q": request.args.get("q", ""),
        "position": position,
        "sort": sort,
        "backwards": backwards,
        "columns": COLUMNS,
        "more": most + 1000 if len(lines) > most else 0,
    }


# ---- many at once

Bulk = Callable[[Show, list[int], BulkForm], Show]


def _change_fields(show: Show, ids: list[int], form: BulkForm) -> Show:
    """Those fields that were filled in."""
    if form.mode.data:
        show = edits.change_mode(show, ids, form.mode.data)
    if form.label.data:
        show = edits.relabel(show, ids, form.label.data)
    if form.number.data is not None:
        show = edits.renumber(show, ids, form.number.data)
    if form.position.data:
        show = edits.set_position(show, ids, form.position.data)
    return show


def _change_mode(show: Show, ids: list[int], form: BulkForm) -> Show:
    if not form.mode.data:
        raise EditError("Choose the mode that the picked fixtures should take.")
    return edits.change_mode(show, ids, form.mode.data)


BULK: dict[str, Bulk] = {
    "change": _change_fields,
    "preview-mode": _change_mode,
    "pin": lambda show, ids, form: edits.pin(show, ids),
    "unpin": lambda show, ids, form: edits.unpin(show, ids),
    "share": lambda show, ids, form: edits.share(show, ids, form.group.data or ""),
    "unshare": lambda show, ids, form: edits.unshare(show, ids),
    "unplace": lambda show, ids, form: edits.unplace(show, ids),
    "remove": lambda show, ids, form: edits.remove_fixtures(show, ids),
}


@blueprint.post("/bulk")
def bulk(show_id: int) -> BaseResponse | tuple[str, int]:
    """Change all picked fixtures in one step."""
    form = BulkForm()
    picked = request.form.getlist("picked", type=int)
    action = BULK.get(request.form.get("action", ""))
    problem = ""
    if not form.validate():
        problem = "; ".join(f"{form[name].label.text}: {messages[0]}" for name, messages in form.errors.items())
    elif action is None:
        problem = "Say what to do with the picked fixtures."
    elif not picked:
        problem = "Pick at least one fixture in the list."
    if not problem and action:
        before = load_for_edit(show_id, request.form.get("revision", type=int))
        ids = _in_rig_order(before.show, picked)
        try:
            after = action(before.show, ids, form)
        except FenceError as error:
            problem = str(error)
        else:
            if request.form.get("action") == "preview-mode":
                named = ",".join(map(str, ids))
                return redirect(url_for("choose.change", show_id=show_id, ids=named, mode=form.mode.data))
            save(before, after)
            flash(describe(before.show, after) or "Nothing to change.")
            return redirect(url_for("rig.index", show_id=show_id))
    return _page(load(show_id), form, picked=picked, problem=problem), 422


def _in_rig_order(show: Show, picked: Sequence[int]) -> list[int]:
    """The picked ids in rig order, so that labels and numbers count along the rig; unknown ones refused."""
    wanted = set(picked)
    for fixture_id in wanted:
        show.fixture(fixture_id)
    return [fixture.id for fixture in show.fixtures if fixture.id in wanted]


# ---- one fixture


@blueprint.route("/<int:fixture_id>", methods=["GET", "POST"])
def fixture(show_id: int, fixture_id: int) -> BaseResponse | str | tuple[str, int]:
    """Change one fixture."""
    saved = load(show_id)
    shown = saved.show.fixture(fixture_id)
    if request.method == "GET":
        address = f"{shown.universe}/{shown.start}" if shown.start else ""
        form = FixtureForm(
            formdata=None,
            label=shown.label,
            number=shown.number,
            mode=shown.mode,
            position=shown.position,
            address=address,
            note=shown.note,
        )
        return _fixture_page(saved, shown, form)
    form = FixtureForm()
    if not form.validate():
        return _fixture_page(saved, shown, form), 422
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    try:
        after = _changed(before.show, fixture_id, form)
    except FenceError as error:
        return _fixture_page(saved, shown, form, problem=str(error)), 422
    save(before, after)
    flash(describe(before.show, after) or "Nothing to change.")
    return redirect(url_for("rig.index", show_id=show_id))


def _fixture_page(saved: SavedShow, shown: Fixture, form: FixtureForm, problem: str = "") -> str:
    profile = saved.show.profile_of(shown)
    modes = profile.modes if profile else ()
    form.mode.choices = [SelectChoice(mode.name, f"{mode.name} ({mode.footprint} ch)") for mode in modes]
    if shown.mode and saved.show.mode_of(shown) is None:
        form.mode.choices = [SelectChoice(shown.mode, f"{shown.mode} (not in the chart)"), *form.mode.choices]
    return render_template(
        "rig/fixture.html",
        frame=frame(saved, "Rig"),
        fixture=shown,
        profile=profile,
        form=form,
        problem=problem,
        positions=[position.name for position in saved.show.positions],
        findings=saved.analysis.by_fixture.get(shown.id, ()),
    )


def _changed(show: Show, fixture_id: int, form: FixtureForm) -> Show:
    shown = show.fixture(fixture_id)
    if form.mode.data and form.mode.data != shown.mode:
        show = edits.change_mode(show, [fixture_id], form.mode.data)
    if form.label.data != shown.label:
        show = edits.rename(show, fixture_id, form.label.data or "")
    show = edits.set_number(show, fixture_id, form.number.data)
    show = edits.set_position(show, [fixture_id], form.position.data or "")
    show = edits.set_note(show, [fixture_id], form.note.data or "")
    typed = (form.address.data or "").strip()
    if not typed and shown.start is not None:
        return edits.unplace(show, [fixture_id])
    if typed:
        target = parse_address(typed, current_universe=shown.universe or 1)
        if target != shown.patch[0].address:
            return edits.place(show, fixture_id, target)
    return show


# ---- adding a run


@blueprint.route("/add", methods=["GET", "POST"])
def add(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Add a run of fixtures, with a preview of where they will land."""
    saved = load(show_id)
    if request.method == "GET":
        home = request.args.get("u", type=int) or min(saved.show.universe_by_number, default=1)
        form = AddForm(
            formdata=None,
            kind=request.args.get("kind"),
            quantity=1,
            universe=home,
            number=edits.next_number(saved.show),
        )
        return _add_page(saved, form)
    form = AddForm()
    if not form.validate():
        return _add_page(saved, form), 422
    before = load_for_edit(show_id, request.form.get("revision", type=int))
    try:
        after = edits.add_fixtures(before.show, _spec(before.show, form))
    except FenceError as error:
        return _add_page(saved, form, problem=str(error)), 422
    save(before, after)
    flash(describe(before.show, after))
    return redirect(url_for("rig.index", show_id=show_id))


@blueprint.get("/add/preview")
def preview_add(show_id: int) -> str:
    """The landing of the run as typed so far."""
    saved = load(show_id)
    form = AddForm(request.args, meta={"csrf": False})
    preview, problem = None, ""
    if form.validate():
        try:
            preview = preview_of(saved, edits.add_fixtures(saved.show, _spec(saved.show, form)))
        except FenceError as error:
            problem = str(error)
    else:
        problem = next(iter(form.errors.values()))[0]
    return render_template("rig/_add_preview.html", preview=preview, problem=problem, saved=saved)


def _add_page(saved: SavedShow, form: AddForm, problem: str = "") -> str:
    form.kind.choices = [
        SelectChoice(
            f"{profile.id}{KIND_JOIN}{mode.name}",
            f"{profile.title}, {mode.name} ({mode.footprint} ch)",
            optgroup=profile.title,
        )
        for profile in _available(saved.show)
        for mode in profile.modes
    ]
    return render_template(
        "rig/add.html",
        frame=frame(saved, "Rig"),
        saved=saved,
        form=form,
        problem=problem,
        preview=None,
        positions=[position.name for position in saved.show.positions],
    )


def _available(show: Show) -> list[Profile]:
    """The profiles of the show and, below their ids, those on the shelf."""
    held = {profile.id for profile in show.profiles}
    found = [*show.profiles, *(profile for profile in library().profiles() if profile.id not in held)]
    return sorted(found, key=lambda profile: (profile.title.casefold(), profile.id))


def _spec(show: Show, form: AddForm) -> edits.AddRun:
    profile_id, _, mode = (form.kind.data or "").partition(KIND_JOIN)
    profile = next((profile for profile in _available(show) if profile.id == profile_id), None)
    if profile is None:
        raise EditError("Choose a fixture and its mode from the list.")
    universe = form.universe.data or 1
    typed = (form.start.data or "").strip()
    return edits.AddRun(
        profile=profile,
        mode=mode,
        quantity=form.quantity.data or 1,
        first_label=form.label.data or "",
        first_number=form.number.data,
        position=form.position.data or "",
        universe=universe,
        start=parse_address(typed, current_universe=universe) if typed else None,
    )


# ---- finding


@blueprint.get("/find")
def find(show_id: int) -> str:
    """Fixtures by label, number or address, for the find box."""
    saved = load(show_id)
    words = request.args.get("find", "").strip()
    return render_template("shared/_found.html", saved=saved, found=found_by(saved.show, words)[:12], words=words)
