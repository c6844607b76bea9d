"""The forms of the rig."""

from __future__ import annotations

from flask_wtf import FlaskForm
from wtforms import BooleanField, IntegerField, SelectField, StringField, TextAreaField
from wtforms.validators import InputRequired, Length, NumberRange, Optional

from fence.core.model.fixture import HIGHEST_NUMBER
from fence.web.fields import Asked, Flag, Number, Numbers, Words

SHORT = Length(max=1000, message="Accepted are up to 1000 characters.")
NUMBER = NumberRange(0, HIGHEST_NUMBER, f"Accepted are 0 to {HIGHEST_NUMBER}.")


class WholeNumber(IntegerField):
    """A whole number; what was typed is kept and named where it is not one."""

    def process_formdata(self, valuelist: list[str]) -> None:
        """Read the number, or say what is accepted."""
        try:
            super().process_formdata(valuelist)
        except ValueError:
            raise ValueError(f"“{valuelist[0][:40]}” is not a whole number.") from None


class AddForm(FlaskForm):
    """A run of alike fixtures. ``kind`` joins profile and mode."""

    kind = SelectField(
        "Fixture and mode", [InputRequired("Choose a fixture and its mode.")], validate_choice=False
    )
    channels = StringField("Channels, without a chart", [Optional(), SHORT])
    quantity = WholeNumber(
        "How many",
        [InputRequired("How many is needed."), NumberRange(1, 2000, "Accepted are 1 to 2000.")],
    )
    label = StringField("First label", [InputRequired("A label is needed."), SHORT])
    number = WholeNumber("First number", [Optional(), NUMBER])
    position = StringField("Position", [Optional(), SHORT])
    universe = WholeNumber(
        "Universe",
        [
            InputRequired("A universe is needed."),
            NumberRange(1, 63_999, "Accepted are 1 to 63999."),
        ],
    )
    start = StringField(
        "From address", [Optional(), Length(max=60, message="This is too long for an address.")]
    )


class FixtureForm(FlaskForm):
    """One fixture."""

    label = StringField("Label", [InputRequired("A label is needed."), SHORT])
    number = WholeNumber("Number", [Optional(), NUMBER])
    mode = SelectField("Mode", validate_choice=False)
    position = StringField("Position", [Optional(), SHORT])
    address = StringField(
        "Address", [Optional(), Length(max=60, message="This is too long for an address.")]
    )
    note = TextAreaField("Note", [Optional(), SHORT])
    at = StringField(
        "Hangs at", [Optional(), Length(max=60, message="This is too long for a place.")]
    )


class BulkForm(FlaskForm):
    """A change to all picked fixtures; fields left empty change nothing."""

    label = StringField("First label", [Optional(), SHORT])
    number = WholeNumber("First number", [Optional(), NUMBER])
    position = StringField("Position", [Optional(), SHORT])
    mode = SelectField("Mode", validate_choice=False)
    group = StringField("Sharing group", [Optional(), SHORT])
    copies = WholeNumber(
        "Copies of each", [Optional(), NumberRange(1, 2000, "Accepted are 1 to 2000.")]
    )
    on_line = BooleanField("On the same line, behind its last fixture")
    kind = SelectField("Another type, and its mode", validate_choice=False)


class AddStep(Asked):
    """What a form of ``rig.add`` sends."""

    more = Flag()


class AddLink(Asked):
    """What a link to ``rig.add`` asks for."""

    u = Number()


class BulkStep(Asked):
    """What a form of ``rig.bulk`` sends."""

    picked = Numbers()
    action = Words(plain=False)


class FindLink(Asked):
    """What a link to ``rig.find`` asks for."""

    find = Words()


class RigLink(Asked):
    """What a link to ``rig.views`` asks for."""

    part = Words(plain=False)
    q = Words(plain=False)
    position = Words(plain=False)
    sort = Words(plain=False, otherwise="rig")
    dir = Words(plain=False)
    most = Number(otherwise=0)


class HangingLink(Asked):
    """What a link to ``rig.hanging`` asks for."""

    view = Words(most=20)
    position = Words(most=1000)
    zoom = Number()
    fixture = Number()
    size = Words(most=10)


class HangingStep(Asked):
    """What a form of ``rig.hanging`` sends."""

    position = Words(most=1000)
    first = Words(most=60)
    last = Words(most=60)
    forget = Flag()
