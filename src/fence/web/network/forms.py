"""The forms of the Network page."""

from __future__ import annotations

from fence.core.model.box import BoxKind, Merging, Numbering, Protocol, Use, Way
from fence.web.fields import Amount, Asked, Flag, Number, OneOf, Words


class Shown(Asked):
    """What of the network is looked at: a box by its number or name, a port, a universe."""

    box = Number()
    name = Words(plain=False)
    port = Number()
    u = Number()


class BoxStep(Asked):
    """A step on a desk or a node, on one of its ports, or on a line that starts there."""

    box = Number(otherwise=0)
    port = Number(otherwise=0)
    line = Number(otherwise=0)
    kind = OneOf(BoxKind, otherwise=BoxKind.NODE)
    name = Words(most=200)
    model = Words(most=200)
    ip = Words()
    prefix = Words()
    gives = Words()
    protocol = OneOf(Protocol)
    way = OneOf(Way)
    counts_from = Words()
    numbering = OneOf(Numbering)
    merging = OneOf(Merging)
    priority = Number(what="priority")
    ports = Number(what="number of ports")
    sends = Number(what="number of universes")
    only = Words(most=20_000)
    both = Flag()
    over_air = Flag()
    speed = Amount(what="speed of a wire", such="Mbit/s, such as 100")
    fill = Flag()
    universe = Number(what="universe")
    use = OneOf(Use)
    says = Number(what="number that a node shows")
    finding = Words()
    mend = Words()


class BoxcardStep(Asked):
    """What a form of ``network.boxcard`` sends."""

    what = Words(plain=False)
    next = Number()


class BoxcardLink(Asked):
    """What a link to ``network.boxcard`` asks for."""

    all = Flag()


class HostsStep(Asked):
    """What a form of ``network.hosts`` sends."""

    reserved = Words(most=20_000, plain=False)
    shared = Words(plain=False)


class HostsEither(Asked):
    """What ``network.hosts`` is asked for, by a link or by a form."""

    network = Words(plain=False)
    anew = Words(plain=False)


class LookStep(Asked):
    """What a form of ``network.look`` sends."""

    place = Number(otherwise=-1)
    what = Words(plain=False)
    seen = Flag()
    ip = Words(plain=False)
    name = Words(most=200, plain=False)


class PortsEither(Asked):
    """What ``network.ports`` is asked for, by a link or by a form."""

    duplicates = Flag()
