"""The words of manuals: the shipped table to see, own wordings to add and take back."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, request, url_for
from werkzeug.datastructures.structures import ImmutableMultiDict
from werkzeug.wrappers import Response as BaseResponse

from fence.core.charts.vocabulary import shipped_wordings
from fence.core.model.errors import EditError, FenceError
from fence.core.model.profile import Function
from fence.core.model.text import counted
from fence.formats.errors import MOST_BYTES, FileError
from fence.formats.words_csv import read_words_csv, write_words_csv
from fence.web.charts.forms import WordsStep
from fence.web.downloads import csv_file
from fence.web.frame import Frame, frame
from fence.web.pages import load, wordings
from fence.web.showing import Showing

blueprint = Blueprint("words", __name__, url_prefix="/shows/<int:show_id>/charts/files/words")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsWords(Showing):
    """What is shown by ``charts/words.html``."""

    template = "charts/words.html"
    frame: Frame
    own: list[tuple[str, Function]]
    shipped: dict[Function, tuple[str, ...]]
    functions: list[Function]
    problem: str
    typed: ImmutableMultiDict[str, str]


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """The table of wordings and what they mean: the shipped ones to see, own ones to add and take
    back."""
    form = WordsStep.sent()
    problem = ""
    if request.method == "POST":
        try:
            if forgotten := request.form.get("forget"):
                wordings().forget(forgotten)
            elif form.do.data == "file":
                _teach_file()
            else:
                means = form.means.data
                if means not in set(Function):
                    raise EditError("Choose what the wording means.")
                wordings().teach(form.wording.data, Function(means))
            return redirect(url_for("words.index", show_id=show_id))
        except FenceError as error:
            problem = str(error)
    page = ChartsWords(
        frame=frame(load(show_id), "Charts"),
        own=wordings().all(),
        shipped=shipped_wordings(),
        functions=list(Function),
        problem=problem,
        typed=request.form,
    ).rendered()
    return (page, 422) if problem else page


@blueprint.get("/list.csv")
def export(show_id: int) -> Response:
    """The wordings that were taught, as a file."""
    load(show_id)
    return csv_file(write_words_csv(wordings().all()), "fence-words")


def _teach_file() -> None:
    """Teach all wordings of a file, or none."""
    file = request.files.get("file")
    if file is None or not file.filename:
        raise FileError("Choose a .csv file with the columns wording and means.")
    words = read_words_csv(file.read(MOST_BYTES + 1))
    for wording, function in words:
        wordings().teach(wording, function)
    flash(f"{counted(len(words), 'wording')} taught.")
