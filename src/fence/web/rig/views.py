"""The rig: the list of fixtures, changes to one or many, adding a run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint
from wtforms.fields.choices import SelectChoice

from fence.core.checks import RULES
from fence.core.checks.finding import Rule
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import asked_by_htmx, load
from fence.web.rig.forms import BulkForm, RigLink
from fence.web.rig.kinds import kind_choices
from fence.web.rig.page import COLUMNS, ROWS_SHOWN, SORTS, RigLine, lines_of, matches, mode_choices
from fence.web.showing import Showing

blueprint = Blueprint("rig", __name__, url_prefix="/shows/<int:show_id>/rig")


@dataclass(frozen=True, slots=True, kw_only=True)
class RigList(Showing):
    """What is shown by ``rig/_list.html``."""

    template = "rig/_list.html"
    saved: SavedShow
    lines: list[RigLine]
    found: int
    all: int
    q: str
    position: str
    sort: str
    backwards: bool
    columns: tuple[tuple[str, str], ...]
    rules: Mapping[str, Rule]
    more: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RigIndex(Showing):
    """What is shown by ``rig/index.html``."""

    template = "rig/index.html"
    frame: Frame
    form: BulkForm
    picked: set[int]
    problem: str
    positions: list[str]
    listed: RigList


@blueprint.get("")
def index(show_id: int) -> str:
    """The fixture list, filtered and sorted."""
    link = RigLink.linked()
    saved = load(show_id)
    if asked_by_htmx() and link.part.data == "list":
        return _list(saved).rendered()
    return list_page(saved, BulkForm(formdata=None), picked=())


def list_page(saved: SavedShow, form: BulkForm, *, picked: Sequence[int], problem: str = "") -> str:
    """The whole page, with what was typed below the list and what is wrong with it."""
    form.mode.choices = mode_choices(saved.show)
    form.kind.choices = [SelectChoice("", "choose one"), *kind_choices(saved.show)]
    return RigIndex(
        frame=frame(saved, "Rig"),
        form=form,
        picked=set(picked),
        problem=problem,
        positions=[position.name for position in saved.show.positions],
        listed=_list(saved),
    ).rendered()


def _list(saved: SavedShow) -> RigList:
    link = RigLink.linked()
    analysis = saved.analysis
    words = link.q.data.casefold().strip()
    position = link.position.data
    sort = link.sort.data
    sort = sort if sort in SORTS else "rig"
    backwards = link.dir.data == "down"
    most = max(ROWS_SHOWN, min(link.most.data, 50_000))
    if words or position or sort != "rig" or backwards:
        found = lines_of(saved.show, analysis)
        lines = [line for line in found if matches(line, words, position)]
        lines.sort(key=SORTS[sort], reverse=backwards)
        count = len(lines)
    else:
        lines = lines_of(saved.show, analysis, saved.show.fixtures[:most])
        count = len(saved.show.fixtures)
    return RigList(
        saved=saved,
        lines=lines[:most],
        found=count,
        all=len(saved.show.fixtures),
        q=link.q.data,
        position=position,
        sort=sort,
        backwards=backwards,
        columns=COLUMNS,
        rules=RULES,
        more=most + 1000 if count > most else 0,
    )
