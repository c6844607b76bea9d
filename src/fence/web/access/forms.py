"""The forms of logging in and joining."""

from __future__ import annotations

from flask_wtf import FlaskForm
from wtforms import PasswordField, StringField
from wtforms.validators import InputRequired, Length

from fence.store.naming import LONGEST_NAME
from fence.store.people import LONGEST_PASSWORD, SHORTEST_PASSWORD

_NAME = Length(max=LONGEST_NAME, message=f"Accepted are up to {LONGEST_NAME} characters.")
_PASSWORD = Length(
    SHORTEST_PASSWORD,
    LONGEST_PASSWORD,
    f"Accepted are {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} characters; a few words make a good "
    "one.",
)


class LogInForm(FlaskForm):
    """A name and its password."""

    name = StringField(
        "Name", [InputRequired("Type your name."), _NAME], render_kw={"autocomplete": "username"}
    )
    password = PasswordField(
        "Password",
        [InputRequired("Type your password.")],
        render_kw={"autocomplete": "current-password"},
    )


class JoinForm(FlaskForm):
    """The name that the log will tell, and a password."""

    name = StringField(
        "Your name, as the log will tell it",
        [InputRequired("A name is needed."), _NAME],
        render_kw={"autocomplete": "username"},
    )
    password = PasswordField(
        "A password",
        [InputRequired("A password is needed."), _PASSWORD],
        render_kw={"autocomplete": "new-password"},
    )


class PasswordForm(FlaskForm):
    """The password of now and the next one."""

    old = PasswordField(
        "Password of now",
        [InputRequired("Type your password of now.")],
        render_kw={"autocomplete": "current-password"},
    )
    password = PasswordField(
        "New password",
        [InputRequired("A password is needed."), _PASSWORD],
        render_kw={"autocomplete": "new-password"},
    )
