"""Routes that are quick to have: there are 250, and a process builds the addresses of few."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from werkzeug.routing import Rule

Builder = Callable[..., tuple[str, str]]


class LateRule(Rule):
    """A route for which the function that builds its address is compiled when one is first built.
    Compiling them all ahead, as the library does, is half of what making the application takes."""

    def _compile_builder(self, append_unknown: bool = True) -> Builder:
        made = "_build_unknown" if append_unknown else "_build"
        compiled = super()._compile_builder

        def first(rule: Rule, /, **values: Any) -> tuple[str, str]:
            builder = compiled(append_unknown).__get__(rule, None)
            setattr(rule, made, builder)  # asked from here on
            return builder(**values)  # type: ignore[no-any-return]

        return first
