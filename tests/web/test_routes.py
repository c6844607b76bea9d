"""Routes whose addresses are built late are built as by the library."""

from __future__ import annotations

from flask import Flask
from werkzeug.routing import AnyConverter, BaseConverter, IntegerConverter, Map, Rule

from fence.web.routes import LateRule


def value_for(kind: BaseConverter) -> object:
    """What may stand in an address at such a place."""
    if isinstance(kind, AnyConverter):
        return min(kind.items)
    return 7 if isinstance(kind, IntegerConverter) else "a b/ü"


def test_addresses_are_those_of_the_library(application: Flask) -> None:
    """Every route, with and without more values, twice: what builds it is compiled at the first."""
    late = [rule for rule in application.url_map.iter_rules() if isinstance(rule, LateRule)]
    assert len(late) > 200
    for rule in late:
        plain = Rule(rule.rule, endpoint=rule.endpoint, defaults=rule.defaults)
        Map([plain], converters=application.url_map.converters)
        values = {name: value_for(kind) for name, kind in plain._converters.items()}
        for more in ({}, {"u": 3, "at": "Fern Gully"}):
            for unknown in (True, False):
                expected = plain.build({**values, **more}, append_unknown=unknown)
                for _ in range(2):
                    found = rule.build({**values, **more}, append_unknown=unknown)
                    assert found == expected, rule
