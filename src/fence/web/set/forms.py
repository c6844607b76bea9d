"""The forms of this step, and what its links ask for."""

from __future__ import annotations

from fence.web.fields import Asked, Flag, Number, Several, Words


class CardStep(Asked):
    """What a form of ``set.card`` sends."""

    what = Words(plain=False)
    mode = Words(plain=False)
    patch = Words(plain=False)
    way = Number()
    done = Flag()
    step = Words(plain=False)
    turned = Flag()
    says = Words(most=20, plain=False)
    serial = Words(plain=False)
    round = Flag()


class CodesLink(Asked):
    """What a link to ``set.codes`` asks for."""

    a = Words(most=1000, plain=False)


class HereLink(Asked):
    """What a link to ``set.here`` asks for."""

    fixture = Number()


class LabelsLink(Asked):
    """What a link to ``set.labels`` asks for."""

    size = Words(plain=False, otherwise="70x37")
    only = Words(plain=False)
    first = Words(most=4, plain=False, otherwise="1")
    fixture = Words(plain=False)
    base = Words()


class LaterStep(Asked):
    """What a form of ``set.later`` sends."""

    waited = Flag()
    words = Words(most=300, plain=False)


class OrderStep(Asked):
    """What a form of ``set.order`` sends."""

    place = Several()
    hard = Several()
    move = Words(plain=False)
    step = Several()


class PlaceStep(Asked):
    """What a form of ``set.place`` sends."""

    fixtures = Words(plain=False)
    at = Words(plain=False)


class PlaceLink(Asked):
    """What a link to ``set.place`` asks for."""

    at = Words(plain=False)


class RoundsStep(Asked):
    """What a form of ``set.rounds`` sends."""

    fixture = Number(otherwise=0)
    serial = Words()
    shown = Flag()
    patch = Words(plain=False)
    mode = Words(plain=False)


class RoundsLink(Asked):
    """What a link to ``set.rounds`` asks for."""

    turn = Number()
    serial = Words(most=60, plain=False)


class SaysStep(Asked):
    """What a form of ``set.says`` sends."""

    seen_patch = Words(plain=False)
    seen_mode = Words(plain=False)
    action = Words(plain=False)
    reason = Words()


class SaysLink(Asked):
    """What a link to ``set.says`` asks for."""

    says = Words(most=20, plain=False)
    upright = Words(most=1, plain=False)
    lit = Words(most=80, plain=False)


class SaysEither(Asked):
    """What ``set.says`` is asked for, by a link or by a form."""

    part = Number(otherwise=0)
    mode = Words(plain=False)
    says = Words()
    lit = Words(plain=False)
    upright = Words(plain=False)


class SetLink(Asked):
    """What a link to ``set.views`` asks for."""

    code = Words(most=200, plain=False)
