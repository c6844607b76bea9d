"""The small forms of the Address page."""

from __future__ import annotations

from typing import TypeVar

from flask_wtf import FlaskForm
from wtforms import BooleanField, Form, IntegerField, StringField
from wtforms.validators import InputRequired, Length, NumberRange, Optional

from fence.core.model.errors import EditError
from fence.web.fields import Asked, Flag, Number, Several, Words


class StepForm(FlaskForm):
    """What every step on the board carries: the revision it started from and where the page is."""

    revision = IntegerField("Revision", [InputRequired()])
    u = IntegerField("Universe", [Optional()])
    turned = BooleanField("Seen upside down")


class FixtureForm(StepForm):
    """A step about one fixture."""

    fixture = IntegerField("Fixture", [InputRequired("Select a fixture first.")])
    part = IntegerField(
        "Part", [Optional(), NumberRange(0, 64, "There is no such part.")], default=0
    )


class NudgeForm(FixtureForm):
    """Move by some slots, or by the fixture's own footprint."""

    by = IntegerField("Slots", [InputRequired("Say by how many slots."), NumberRange(-512, 512)])


class MoveForm(FixtureForm):
    """Move to an address."""

    address = StringField("Address", [InputRequired("Type an address."), Length(max=60)])


class MendForm(StepForm):
    """Take the computed way out of a finding."""

    finding = StringField("Finding", [InputRequired()])
    mend = IntegerField("Mend", [InputRequired(), NumberRange(0, 100)])
    pick = IntegerField("Fixture", [Optional()])


class UniverseForm(FlaskForm):
    """A universe: its number, name and reserved slots."""

    revision = IntegerField("Revision", [InputRequired()])
    number = IntegerField(
        "Number",
        [InputRequired("A number is needed."), NumberRange(1, 63_999, "Accepted are 1 to 63999.")],
    )
    name = StringField(
        "Name", [Optional(), Length(max=200, message="Accepted are up to 200 characters.")]
    )
    reserved = StringField("Reserved slots", [Optional(), Length(max=2000)])


AnyForm = TypeVar("AnyForm", bound=Form)


def valid(form: AnyForm) -> AnyForm:
    """The form, or ``EditError`` with its first message."""
    if not form.validate():
        field, messages = next(iter(form.errors.items()))
        raise EditError(f"{form[field].label.text if field else 'Form'}: {messages[0]}")
    return form


class LayoutEither(Asked):
    """What ``address.layout`` is asked for, by a link or by a form."""

    school = Flag()
    ids = Words(plain=False)


class ProposalsLink(Asked):
    """What a link to ``address.proposals`` asks for."""

    mend = Number(otherwise=0)
    u = Number(otherwise=1)
    slot = Number(otherwise=1)
    way = Words(plain=False)


class ProposalsEither(Asked):
    """What ``address.proposals`` is asked for, by a link or by a form."""

    way = Words(plain=False)


class RoomLink(Asked):
    """What a link to ``address.room`` asks for."""

    length = Number(otherwise=0)
    q = Words(plain=False)
    sort = Words(plain=False, otherwise="number")
    page = Number(otherwise=0)


class TrialEither(Asked):
    """What ``address.trial`` is asked for, by a link or by a form."""

    tried = Flag()


class AddressLink(Asked):
    """What a link to ``address.views`` asks for."""

    u = Number()
    page = Number()


class WaysStep(Asked):
    """What a form of ``address.ways`` sends."""

    slot = Number()
    scale = Words(plain=False)
    on = Words(plain=False)
    hard = Several()
