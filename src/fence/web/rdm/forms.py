"""The forms of this step, and what its links ask for."""

from __future__ import annotations

from fence.web.fields import Asked, Flag, Number, Several, Words


class DeviceStep(Asked):
    """What a form of ``rdm.device`` sends."""

    sure = Flag()
    what = Words(plain=False)
    spare = Flag()
    fixture = Number()
    modes = Flag()
    seen = Flag()


class HoldingStep(Asked):
    """What a form of ``rdm.holding`` sends."""

    minutes = Number()
    rule = Words(plain=False)


class RdmStep(Asked):
    """What a form of ``rdm.views`` sends."""

    bind = Words(plain=False)
    place = Several()
    anew = Flag()
    on = Words(plain=False)
    origin = Words(name="from")
    identity = Words(plain=False)
    identities = Several(name="identity")
    what = Words(plain=False)
    guesses = Flag()
    labels = Flag()
    displays = Flag()
    seen = Flag()
