"""The charts: the profiles that a show uses and those on the shelf, with their modes and channels."""

from __future__ import annotations

from collections import Counter

from flask import Blueprint, render_template

from fence.library import shipped_profiles
from fence.web.layout import frame
from fence.web.pages import load

blueprint = Blueprint("charts", __name__, url_prefix="/shows/<int:show_id>/charts")


@blueprint.get("")
def index(show_id: int) -> str:
    """All charts that can be planned with."""
    saved = load(show_id)
    used = Counter(fixture.profile for fixture in saved.show.fixtures)
    used_modes = Counter((fixture.profile, fixture.mode) for fixture in saved.show.fixtures)
    held = {profile.id for profile in saved.show.profiles}
    return render_template(
        "charts/index.html",
        frame=frame(saved, "Charts"),
        in_show=saved.show.profiles,
        on_shelf=[profile for profile in shipped_profiles() if profile.id not in held],
        used=used,
        used_modes=used_modes,
    )
