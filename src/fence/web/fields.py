"""What forms and links ask for: fields that read what was typed, each once and with its limits.

A field that cannot be read keeps what was typed in ``raw_data``, is ``None`` (or empty), and where
it says ``what`` was meant is an error of its form, with what is accepted.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import StrEnum
from typing import Any, Self

from flask import Flask, request
from jinja2 import Undefined
from markupsafe import Markup
from wtforms import Field, FloatField, Form
from wtforms.widgets import CheckboxInput, TextInput, html_params

from fence.core.model.day import hours_of
from fence.core.model.errors import EditError
from fence.core.model.text import printable, whole_number

LONGEST = 16 * 2**20
"""Characters that are read of a text that has no limit of its own: as many as a body may have."""


class Asked(Form):
    """The fields of a step, or of a link, by their names. Its token is checked for all forms."""

    @classmethod
    def sent(cls) -> Self:
        """With what a form sent."""
        return cls(request.form)

    @classmethod
    def linked(cls) -> Self:
        """With what the address asks for."""
        return cls(request.args)

    @classmethod
    def either(cls) -> Self:
        """With both: a preview is asked for by its address and taken by a form."""
        return cls(request.values)

    def checked(self) -> Self:
        """Itself; ``EditError`` with its first message where something cannot be read."""
        for field in self:
            if field.process_errors:
                raise EditError(str(field.process_errors[0]))
        return self

    def typed(self) -> dict[str, str]:
        """What was typed into each field, as it was."""
        return {field.name: field.raw_data[0] if field.raw_data else "" for field in self}


class Words(Field):
    """A text, cut at ``most`` characters; ``plain`` takes the blanks around it off."""

    data: Any
    widget = TextInput()

    def __init__(
        self,
        label: str = "",
        *,
        most: int = LONGEST,
        plain: bool = True,
        otherwise: str = "",
        **more: Any,
    ) -> None:
        super().__init__(label, default=otherwise, **more)
        self.most, self.plain = most, plain

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read it."""
        if valuelist:
            words = valuelist[0].strip() if self.plain else valuelist[0]
            self.data = words[: self.most]


class Number(Field):
    """A whole number, or None."""

    data: Any
    widget = TextInput()

    def __init__(
        self, label: str = "", *, what: str = "", otherwise: int | None = None, **more: Any
    ) -> None:
        super().__init__(label, default=otherwise, **more)
        self.what, self.otherwise = what, otherwise

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read it; what was meant is named where it is no whole number."""
        words = valuelist[0].strip() if valuelist else ""
        number = whole_number(words)
        self.data = self.otherwise if number is None else number
        if words and number is None and self.what:
            raise ValueError(
                f"“{printable(words[:20])}” is not a valid {self.what}. Use whole numbers."
            )


class Amount(Field):
    """A number with a point or a comma, or None."""

    data: Any
    widget = TextInput()

    def __init__(self, label: str = "", *, what: str, such: str, **more: Any) -> None:
        super().__init__(label, **more)
        self.what, self.such = what, such

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read it; what was meant is named where it is no number."""
        words = valuelist[0].strip() if valuelist else ""
        try:
            self.data = float(words.replace(",", ".")) if words else None
        except ValueError:
            self.data = None
            raise ValueError(
                f"“{printable(words[:20])}” is not a valid {self.what}: type {self.such}."
            ) from None


class Decimal(FloatField):
    """A number of a form that is checked, with a point or a comma."""

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read it."""
        super().process_formdata([word.strip().replace(",", ".") for word in valuelist])


class Hours(FloatField):
    """Hours as people write them, of ``6-7 h`` the fewer; None for none."""

    widget = TextInput()

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read them; what is accepted is said where they are none."""
        words = valuelist[0].strip() if valuelist else ""
        try:
            self.data = hours_of(words) if words else None
        except EditError as error:
            self.data = None
            raise ValueError(str(error)) from None


class OneOf(Field):
    """A word of a kind; ``otherwise`` where it is none of them."""

    data: Any
    widget = TextInput()

    def __init__(
        self, kind: type[StrEnum], label: str = "", *, otherwise: StrEnum | None = None, **more: Any
    ) -> None:
        super().__init__(label, default=otherwise, **more)
        self.kind, self.otherwise = kind, otherwise

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read it."""
        if valuelist:
            word = valuelist[0]
            self.data = self.kind(word) if word in set(self.kind) else self.otherwise


class Flag(Field):
    """Whether it was ticked or pressed."""

    data: Any
    widget = CheckboxInput()

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read it."""
        self.data = bool(valuelist and valuelist[0])


class Several(Field):
    """All texts of one name, each without limits of its own."""

    data: Any
    widget = TextInput()

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read them."""
        self.data = list(valuelist)


class Numbers(Field):
    """All whole numbers of one name; whatever is no number is passed over."""

    data: Any
    widget = TextInput()

    def process_formdata(self, valuelist: Sequence[str]) -> None:
        """Read them."""
        found = map(whole_number, valuelist)
        self.data = [number for number in found if number is not None]


def attributes(named: Mapping[str, object]) -> Markup:
    """What a macro was given beyond what it knows, as attributes: ``hx_get`` is ``hx-get``, true is
    an attribute without a value, and what is false, none or undefined is left out."""
    given = {
        name.replace("_", "-"): value
        for name, value in named.items()
        if value is not None and value is not False and not isinstance(value, Undefined)
    }
    return Markup(html_params(**given))  # its values are escaped


def register(app: Flask) -> None:
    """Make attributes of macros known to templates."""
    app.add_template_filter(attributes)
