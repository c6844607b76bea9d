"""The forms of this step, and what its links ask for."""

from __future__ import annotations

from fence.web.fields import Asked, Words


class FindingsStep(Asked):
    """What a form of ``findings.views`` sends."""

    finding = Words(plain=False)
    reason = Words(plain=False)
    until = Words()


class FindingsLink(Asked):
    """What a link to ``findings.views`` asks for."""

    q = Words(plain=False)
    severity = Words(plain=False)
    part = Words(plain=False)
