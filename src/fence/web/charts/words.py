"""The words of manuals: the shipped table to see, own wordings to add and take back."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.charts.vocabulary import SYNONYMS
from fence.core.words.errors import EditError, FenceError
from fence.core.words.profile import Function
from fence.web.frame import frame
from fence.web.pages import load, wordings

blueprint = Blueprint("words", __name__, url_prefix="/shows/<int:show_id>/charts/files/words")


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """The table of wordings and what they mean: the shipped ones to see, own ones to add and take back."""
    problem = ""
    if request.method == "POST":
        try:
            if forgotten := request.form.get("forget"):
                wordings().forget(forgotten)
            else:
                means = request.form.get("means", "")
                if means not in set(Function):
                    raise EditError("Choose what the wording means.")
                wordings().teach(request.form.get("wording", ""), Function(means))
            return redirect(url_for("words.index", show_id=show_id))
        except FenceError as error:
            problem = str(error)
    page = render_template(
        "charts/words.html",
        frame=frame(load(show_id), "Charts"),
        own=wordings().all(),
        shipped=SYNONYMS,
        functions=list(Function),
        problem=problem,
        typed=request.form,
    )
    return (page, 422) if problem else page
