"""The forms of this step, and what its links ask for."""

from __future__ import annotations

from fence.web.fields import Asked, Number, Words


class LogStep(Asked):
    """What a form of ``log.views`` sends."""

    note = Words(plain=False)
    revision = Words(plain=False)
    name = Words(plain=False)
    to = Number()


class LogLink(Asked):
    """What a link to ``log.views`` asks for."""

    before = Number()
    first = Words(plain=False, otherwise="1")
    last = Words(plain=False)
