"""The form of a chart: what the manual says, as text, and how the fixture is set."""

from __future__ import annotations

from flask_wtf import FlaskForm
from wtforms import BooleanField, Field, IntegerField, SelectField, StringField, TextAreaField
from wtforms.fields.choices import SelectChoice
from wtforms.form import BaseForm
from wtforms.validators import InputRequired, Length, NumberRange, Optional, ValidationError

from fence.core.charts.reading import MOST_CHARACTERS
from fence.core.model.errors import ChartError
from fence.core.model.profile import MOST_SWITCHES, Setter, SetterKind
from fence.core.model.text import whole_number
from fence.web.fields import Asked, Decimal, Flag, Hours, Number, Several, Words

SHORT = Length(max=200, message="Accepted are up to 200 characters.")
WORDS = Length(max=1000, message="Accepted are up to 1000 characters.")
CHART = Length(max=MOST_CHARACTERS, message=f"Accepted are up to {MOST_CHARACTERS:,} characters.")
SETTERS = {
    SetterKind.MENU: "a menu",
    SetterKind.SWITCHES: "switches",
    SetterKind.ROTARY: "wheels",
    SetterKind.RDM: "RDM only",
    SetterKind.FIXED: "fixed, cannot be set",
}


def numbers_in(words: str) -> tuple[int, ...]:
    """The numbers of switches that a person lists, ``10`` or ``10, 11``. Raises ``ChartError`` for
    what is none."""
    found = [whole_number(word) for word in words.replace(",", " ").split()]
    if any(number is None or not 1 <= number <= MOST_SWITCHES for number in found):
        raise ChartError(f"Accepted are switches from 1 to {MOST_SWITCHES}, such as 10, 11.")
    return tuple(number for number in dict.fromkeys(found) if number is not None)


def switches_listed(_form: BaseForm, field: Field) -> None:
    """Accepts a list of switches."""
    try:
        numbers_in(field.data or "")
    except ChartError as error:
        raise ValidationError(str(error)) from None


def shown_letters(_form: BaseForm, field: Field) -> None:
    """Accepts what can stand before the number on a display."""
    try:
        Setter(shown_before=(field.data or "").strip())
    except ChartError as error:
        raise ValidationError(str(error)) from None


class ChartForm(FlaskForm):
    """A chart. ``text`` is read anew with each change; nothing is kept before it is saved."""

    maker = StringField("Maker", [Optional(), SHORT])
    model = StringField(
        "Model", [InputRequired("A model is needed, so that the chart can be found."), SHORT]
    )
    kind = StringField("What it is", [Optional(), SHORT])
    text = TextAreaField(
        "The chart, as it can be copied",
        [
            InputRequired("Paste a chart first."),
            CHART,
        ],
    )
    setter = SelectField(
        "Address is set by",
        choices=[SelectChoice(str(kind), words) for kind, words in SETTERS.items()],
    )
    switches = IntegerField(
        "Address switches", [Optional(), NumberRange(1, 16, "Accepted are 1 to 16.")]
    )
    zero_based = BooleanField("Switches show address - 1")
    on_is_down = BooleanField("A switch is on when it is down")
    from_right = BooleanField("Switch 1 is the one on the right")
    fixed_on = StringField("Other switches that must be on", [Optional(), switches_listed])
    fixed_off = StringField("Other switches that must be off", [Optional(), switches_listed])
    confirm = StringField("How it is confirmed, in words", [Optional(), WORDS])
    shown_before = StringField("Its display shows before the number", [Optional(), shown_letters])
    display_flips = BooleanField("Its display can be turned upside down")
    one_at_a_time = BooleanField("Set one at a time: all on the cable would take the address")
    highest = IntegerField(
        "Highest address", [Optional(), NumberRange(1, 512, "Accepted are 1 to 512.")]
    )
    steps = StringField("How it is set, in words", [Optional(), WORDS])
    listens = StringField("What it needs to listen to DMX", [Optional(), WORDS])
    no_signal = StringField("What it does without signal", [Optional(), WORDS])
    connectors_in = StringField("Connector in", [Optional(), SHORT])
    connectors_out = StringField("Connector out", [Optional(), SHORT])
    rdm = BooleanField("Speaks RDM")
    wireless = BooleanField("Wireless")
    weight_kg = Decimal(
        "Weight, kg", [Optional(), NumberRange(0, 5000, "Accepted are 0 to 5000 kg.")]
    )
    unit_load = Decimal(
        "Unit loads on the line", [Optional(), NumberRange(0, 32, "Accepted are 0 to 32.")]
    )
    blocks_unpowered = BooleanField("Passes nothing on without power")
    battery_hours = Hours("Battery lasts, h", [Optional()])
    charge_hours = Hours("Charges in, h", [Optional()])
    battery_stays = BooleanField("The battery is built in: it can only be charged")
    charge_note = StringField("What is odd about charging", [Optional(), WORDS])
    source = StringField("Where the chart comes from", [Optional(), WORDS])
    power_w = IntegerField(
        "Power, W", [Optional(), NumberRange(0, 100_000, "Accepted are 0 to 100000 W.")]
    )


class ChangeStep(Asked):
    """What a form of ``charts.change`` sends."""

    mend = Flag()


class ChooseStep(Asked):
    """What a form of ``charts.choose`` sends."""

    features = Several()
    whom = Words(plain=False)
    fixture = Words()
    school = Words(plain=False)


class ChooseLink(Asked):
    """What a link to ``charts.choose`` asks for."""

    goal = Words(plain=False)
    within = Words(plain=False)


class EnteringStep(Asked):
    """What a form of ``charts.entering`` sends."""

    chart = Words(plain=False)
    into_show = Flag()
    of = Words(plain=False)
    wording = Several()
    means = Several()
    way = Words(most=200)


class EnteringLink(Asked):
    """What a link to ``charts.entering`` asks for."""

    sheet = Words(plain=False)
    said = Words(plain=False)


class FilesStep(Asked):
    """What a form of ``charts.files`` sends."""

    chart = Several()


class ProbeStep(Asked):
    """What a form of ``charts.probe`` sends."""

    practice = Number()
    do = Words(plain=False)
    answer = Words(plain=False)


class WordsStep(Asked):
    """What a form of ``charts.words`` sends."""

    do = Words(plain=False)
    means = Words(plain=False)
    wording = Words(plain=False)
