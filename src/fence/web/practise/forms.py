"""The forms of Practise, and what its links ask for."""

from __future__ import annotations

from fence.web.fields import Asked, Flag, Number, Words


class DrillLink(Asked):
    """What a link to ``drills.index`` asks for."""

    level = Number(otherwise=1)
    seed = Number()
    said = Words(most=100)
    round = Flag()


class DrillStep(Asked):
    """What a form of ``drills.index`` sends."""

    level = Number(otherwise=1)
    seed = Number()
    answer = Words(most=100)
    round = Flag()


class SheetLink(Asked):
    """What a link to ``worksheet.index`` asks for."""

    drill = Words(most=40)
    level = Number(otherwise=1)
    seed = Number()
