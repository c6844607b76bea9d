"""Icons from the vendored sprite."""

from __future__ import annotations

from flask import Flask, url_for
from markupsafe import Markup


def icon(name: str) -> Markup:
    """The markup of one icon, hidden from readers of the screen: the words beside it say what it
    means."""
    href = f"{url_for('static', filename='vendor/bootstrap-icons/icons.svg')}#{name}"
    return Markup(
        '<svg class="icon" aria-hidden="true" focusable="false"><use href="{}"></use></svg>'
    ).format(href)


def register(app: Flask) -> None:
    """Make ``icon`` known to templates."""
    app.add_template_global(icon)
