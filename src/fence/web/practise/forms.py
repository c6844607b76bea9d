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


class FindStep(Asked):
    """What a form of ``find_it`` sends."""

    level = Number(otherwise=1)
    kind = Words(most=20)
    place = Words(most=40)
    trouble = Words(most=30)
    where = Words(most=40)


class CaseLink(Asked):
    """What a link to ``cases.new`` asks for: a fault to be added, and the place of one to be taken
    out."""

    trouble = Words(most=30)
    where = Words(most=40)
    more = Words(most=80)
    add = Flag()
    enter = Flag()
    out = Number()


class CaseStep(Asked):
    """What a form of ``cases`` sends."""

    title = Words(most=200)
    faults = Words(most=20_000)


class ChallengeLink(Asked):
    """What a challenge is drawn from, and when it began (seconds since 1970, UTC)."""

    level = Number(otherwise=1)
    seed = Number()
    began = Number()
