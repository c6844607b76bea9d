"""The forms of logging in and joining."""

from __future__ import annotations

from flask_wtf import FlaskForm
from wtforms import PasswordField, StringField
from wtforms.validators import InputRequired, Length

from fence.store.naming import LONGEST_NAME
from fence.store.people import LONGEST_PASSWORD, SHORTEST_PASSWORD
from fence.web.fields import Asked, Number, Words

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


class PeopleStep(Asked):
    """What a form of ``access.people`` sends."""

    hours = Number(otherwise=24)
    role = Words(plain=False)


class AccessStep(Asked):
    """What a form of ``access.views`` sends."""

    sitting = Number(otherwise=0)


class AccessLink(Asked):
    """What a link to ``access.views`` asks for."""

    code = Words()


class AccessEither(Asked):
    """What ``access.views`` is asked for, by a link or by a form."""

    next = Words(plain=False)
