"""The forms of the list of shows."""

from __future__ import annotations

from flask_wtf import FlaskForm
from flask_wtf.file import FileField, FileRequired
from wtforms import IntegerField, StringField
from wtforms.validators import InputRequired, Length, NumberRange, Optional


class ShowForm(FlaskForm):
    """A show's name and its desk."""

    name = StringField(
        "Name of the show",
        [
            InputRequired("A name is needed: it cannot be empty."),
            Length(max=200, message="Accepted are up to 200 characters."),
        ],
    )
    desk_name = StringField("Desk", [Optional(), Length(max=200, message="Accepted are up to 200 characters.")])
    desk_universes = IntegerField(
        "Universes the desk has",
        [Optional(), NumberRange(1, 63_999, "Accepted are 1 to 63999, or nothing if not known.")],
    )


class ImportForm(FlaskForm):
    """A file with a rig or a show."""

    file = FileField("File", [FileRequired("Choose a .csv or .json file.")])


class WhoForm(FlaskForm):
    """What the person at this browser is called on the log."""

    who = StringField(
        "Your name or role",
        [InputRequired("A name is needed."), Length(max=60, message="Accepted are up to 60 characters.")],
    )
