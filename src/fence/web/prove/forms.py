"""The forms of this step, and what its links ask for."""

from __future__ import annotations

from fence.core.troubleshooting.evidence import Answer, Kind
from fence.web.fields import Asked, Flag, Number, Numbers, OneOf, Several, Words


class ColourStep(Asked):
    """What a form of ``prove.colour`` sends."""

    colour = Words(plain=False)
    profile = Words(plain=False)


class ColourLink(Asked):
    """What a link to ``prove.colour`` asks for."""

    colour = Words(plain=False)


class FadersStep(Asked):
    """What a form of ``prove.faders`` sends."""

    fixture = Number()
    fader = Words(plain=False)
    level = Words(plain=False)
    cells = Words(plain=False)
    slot = Number()


class FadersEither(Asked):
    """What ``prove.faders`` is asked for, by a link or by a form."""

    cells = Words(plain=False)
    fixture = Number()
    fixture_called = Words(most=1000)


class LessonLink(Asked):
    """What a link to ``prove.lesson`` asks for."""

    level = Several()


class TesterLink(Asked):
    """What a link to ``prove.tester`` asks for."""

    bind = Words(plain=False)
    since = Words(plain=False)
    protocol = Words(plain=False)
    fixture = Number()
    u = Number()
    slot = Number()
    asked = Words(most=40, plain=False)


class ProveStep(Asked):
    """What a form of ``prove.views`` sends."""

    answer = Words(plain=False)
    enough = Flag()
    aim = Words(plain=False)
    protocol = Words(plain=False, otherwise="sacn")
    away = Flag()
    to = Words(plain=False)
    sure = Flag()
    fault = Words(most=300)


class ProveLink(Asked):
    """What a link to ``prove.views`` asks for."""

    up = Flag()


class ProveEither(Asked):
    """What ``prove.views`` is asked for, by a link or by a form."""

    u = Number()
    fixture = Number()
    look = Words(plain=False)


class TroubleshootLink(Asked):
    """What a link to ``prove.troubleshoot`` asks for."""

    skip = Several()
    fixture = Number()
    line = Number()


class TroubleshootStep(Asked):
    """What a form of ``prove.troubleshoot`` sends."""

    kind = OneOf(Kind)
    answer = OneOf(Answer)
    fixture = Number()
    fixture_called = Words(most=1000)
    whom = Words(most=1000)
    whom_called = Words(most=1000)
    at = Numbers()
    reading = Words(most=40)
    place = Words(most=60)
    other = Number()
    other_called = Words(most=1000)
    line = Words(most=1000)
    stop = Number()
    box = Words(most=1000)
    port = Number()
    says = Words(most=40)
    was_set = Flag()
    mode = Words(most=1000)


class TroubleshootWeights(Asked):
    """What a form of ``prove.troubleshoot`` sends of how likely each kind of trouble is: names and
    weights, side by side."""

    trouble = Several()
    weight = Several()
    practice = Flag()


class PracticeLink(Asked):
    """What a link to ``practice`` asks for."""

    where = Words(most=40)


class PracticeStep(Asked):
    """What a form of ``practice`` sends."""

    do = Words(most=10)
    where = Words(most=40)
    trouble = Words(most=30)
    more = Words(most=80)
    hidden = Flag()
    out = Number()
