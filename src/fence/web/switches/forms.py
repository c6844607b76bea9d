"""The forms of this step, and what its links ask for."""

from __future__ import annotations

from fence.web.fields import Asked, Number, Several


class DrillLink(Asked):
    """What a link to ``switches.drill`` asks for."""

    seed = Number()
    answer = Several()
