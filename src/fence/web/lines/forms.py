"""The forms of the Lines page."""

from __future__ import annotations

from fence.core.model.line import Cable, Device, Plug, Power
from fence.web.fields import Asked, Flag, Hours, Number, OneOf, Several, Words


class Shown(Asked):
    """What of the lines is looked at: a line by its number or name, and what is picked on it."""

    line = Number()
    name = Words(plain=False)
    stop = Number()


class LineStep(Asked):
    """A step on a line, or on a stop of it; 0 is the place where it starts, or none."""

    line = Number(otherwise=0)
    stop = Number(otherwise=0)
    to = Number(otherwise=0)
    to_line = Number(otherwise=0)
    after = Number(otherwise=0)
    other = Number(otherwise=0)
    universe = Number(otherwise=0, what="universe")
    outputs = Number(otherwise=0, what="number of outputs")
    name = Words(plain=False)
    start = Words()
    fixtures = Several()
    typed = Words(most=2000)
    device = OneOf(Device)
    where = Words()
    label = Words(most=200)
    passive = Flag()
    cable = OneOf(Cable)
    near = OneOf(Plug)
    far = OneOf(Plug)
    length = Words()
    lengths = Words(most=100_000)
    reason = Words(most=300)
    finding = Words()
    mend = Words()
    link = Words(most=60)
    no_rdm = Flag()
    power = OneOf(Power)
    hours = Hours()
    sign = Words(most=200)


class DayStep(Asked):
    """What a form of ``lines.day`` sends."""

    do = Words(plain=False)


class GroundStep(Asked):
    """What a form of ``lines.ground`` sends."""

    then = Words(plain=False)
    place = Several()
    between = Words(plain=False)
    slack = Number()
    sockets = Words()


class LinksLink(Asked):
    """What a link to ``lines.links`` asks for."""

    position = Words(plain=False)


class PlansStep(Asked):
    """What a form of ``lines.plans`` sends."""

    text = Words(plain=False)
    do = Words(plain=False)


class PlansEither(Asked):
    """What ``lines.plans`` is asked for, by a link or by a form."""

    what = Words(plain=False)


class StockStep(Asked):
    """What a form of ``lines.stock`` sends."""

    text = Words(plain=False)
