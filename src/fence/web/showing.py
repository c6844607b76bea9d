"""What templates receive: a value for each, declared where it is made.

Its fields are the names that the template knows. A field that is a ``Part`` is a group of names
that several templates have in common: its fields stand beside the others.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import ClassVar

from flask import render_template


@dataclass(frozen=True, slots=True)
class Part:
    """Names that several templates have in common."""

    def _names(self) -> dict[str, object]:
        """The names and their values, those of parts among them."""
        found: dict[str, object] = {}
        for field in fields(self):
            value = getattr(self, field.name)
            found |= value._names() if isinstance(value, Part) else {field.name: value}
        return found


@dataclass(frozen=True, slots=True)
class Showing(Part):
    """What a page or a fragment shows, by the template of this name."""

    template: ClassVar[str]

    def rendered(self) -> str:
        """The markup."""
        return render_template(self.template, **self._names())
