"""The forms of the list of shows."""

from __future__ import annotations

from flask_wtf import FlaskForm
from flask_wtf.file import FileField, FileRequired
from wtforms import IntegerField, SelectField, StringField
from wtforms.fields.choices import SelectChoice
from wtforms.validators import InputRequired, Length, NumberRange, Optional

from fence.library.desks import DESKS
from fence.web.fields import Asked, Flag, Number, Numbers, Several, Words


class ShowForm(FlaskForm):
    """A show's name and its desk."""

    name = StringField(
        "Name of the show",
        [
            InputRequired("A name is needed: it cannot be empty."),
            Length(max=200, message="Accepted are up to 200 characters."),
        ],
    )
    desk_name = StringField(
        "Desk", [Optional(), Length(max=200, message="Accepted are up to 200 characters.")]
    )
    desk_universes = IntegerField(
        "Universes the desk has",
        [Optional(), NumberRange(1, 63_999, "Accepted are 1 to 63999, or nothing if not known.")],
    )


class DeskForm(ShowForm):
    """A show with all limits of its desk. Fields left empty set no limit."""

    desk_page = IntegerField(
        "Slots of a page", [Optional(), NumberRange(1, 512, "Accepted are 1 to 512.")]
    )
    desk_buttons = IntegerField(
        "Fixture buttons", [Optional(), NumberRange(1, 10_000, "Accepted are 1 to 10000.")]
    )
    desk_highest = IntegerField(
        "Highest slot", [Optional(), NumberRange(1, 512, "Accepted are 1 to 512.")]
    )
    desk_layout = StringField("Fixed channel layout", [Optional(), Length(max=2000)])


class NewShowForm(DeskForm):
    """A new show: its name, and its desk, ready-made or described."""

    ready = SelectField(
        "Ready-made desk",
        choices=[
            SelectChoice("", "none of these"),
            *(SelectChoice(key, f"{kind.desk.name}: {kind.words}") for key, kind in DESKS.items()),
        ],
        validate_choice=False,
    )


class ImportForm(FlaskForm):
    """A file with a rig or a show."""

    file = FileField("File", [FileRequired("Choose a .csv, .json, .xlsx or .mvr file.")])


class WhoForm(FlaskForm):
    """What the person at this browser is called on the log."""

    who = StringField(
        "Your name or role",
        [
            InputRequired("A name is needed."),
            Length(max=60, message="Accepted are up to 60 characters."),
        ],
    )


class ImportsStep(Asked):
    """What a form of ``shows.imports`` sends."""

    into = Number()
    line = Numbers()
    text = Several()
    leave_out = Flag()
    drop_missing = Flag()
    instead = Several()
    head = Several()
    column = Several()
    name = Words(plain=False)


class ImportsLink(Asked):
    """What a link to ``shows.imports`` asks for."""

    into = Number()


class ImportsEither(Asked):
    """What ``shows.imports`` is asked for, by a link or by a form."""

    drop_missing = Flag()
    instead = Several()


class StepsStep(Asked):
    """What a form of ``shows.steps`` sends."""

    revision = Number(otherwise=0)


class ShowsLink(Asked):
    """What a link to ``shows.views`` asks for."""

    desk = Words(plain=False)
