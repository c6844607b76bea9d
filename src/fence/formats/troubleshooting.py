"""Evidence as a JSON list, and where a search stands as JSON."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from pydantic_core import from_json

from fence.core.model.errors import EditError
from fence.core.model.record import HIGHEST_READING
from fence.core.model.show import Show
from fence.core.model.text import joined, printable, whole_number
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.asking import Next
from fence.core.troubleshooting.evidence import (
    ANSWERS,
    AT_A_FIXTURE,
    AT_A_STOP,
    MOST_EVIDENCE,
    WITH_VALUE,
    Answer,
    Check,
    Evidence,
    Kind,
)
from fence.core.troubleshooting.search import Finding
from fence.core.troubleshooting.told import answers_of, asks
from fence.formats.errors import FileError, decoded

Item = Mapping[str, Any]


def read_evidence(data: bytes, show: Show) -> list[Evidence]:
    """The evidence of a JSON list; ``FileError`` says which item is wrong and what is accepted."""
    try:
        items = from_json(decoded(data))
    except ValueError as error:
        raise FileError(f"This is not JSON ({error}). Use a list of evidence.") from None
    if not isinstance(items, list):
        raise FileError("This is not a list. Use a JSON list of evidence, each an object.")
    if len(items) > MOST_EVIDENCE:
        raise FileError(f"There are {len(items)} pieces of evidence. Use up to {MOST_EVIDENCE}.")
    found = []
    for number, item in enumerate(items, 1):
        try:
            found.append(_evidence(item, show))
        except EditError as error:
            raise FileError(f"Evidence {number}: {error}") from None
    return found


def _evidence(item: object, show: Show) -> Evidence:
    if not isinstance(item, dict):
        raise EditError("This is not an object. Use one with kind and answer.")
    kind = _word(item, "kind", list(Kind))
    answer = _word(item, "answer", list(ANSWERS[Kind(kind)]))
    value = item.get("value")
    told = "" if value is None else str(value)
    if (Kind(kind), Answer(answer)) == (Kind.LOOK, Answer.ANOTHER):
        told = str(_fixture(show, value))
    elif told and kind in (Kind.DISPLAY, Kind.NODE) and answer == Answer.SAYS:
        told = number_read(value)
    check = _check(Kind(kind), item, show)
    if answer == Answer.MODE:
        told = mode_of(show, check.fixture, told)
    elif (Kind(kind), Answer(answer)) not in WITH_VALUE:
        told = ""
    return Evidence(check, Answer(answer), told)


def mode_of(show: Show, fixture_id: int, name: str) -> str:
    """The name of a mode that a fixture has; ``EditError`` names those that it has."""
    fixture = show.fixture(fixture_id)
    if (fixture.profile, name) in show.modes:
        return name
    profile = show.profile_of(fixture)
    known = joined([mode.name for mode in profile.modes], most=12) if profile else "none"
    raise EditError(f"{fixture.label} has no mode “{printable(name[:60])}”. Use one of {known}.")


def _word(item: Item, key: str, words: list[Any]) -> str:
    found, article = item.get(key), "an" if key[0] in "aeiou" else "a"
    if found not in [str(word) for word in words]:
        known = ", ".join(map(str, words))
        raise EditError(f"“{printable(str(found)[:40])}” is not {article} {key}. Use {known}.")
    return str(found)


def number_read(value: object) -> str:
    """A number as a display or a port shows it; ``EditError`` says what can be read."""
    number = whole_number(str(value)) if not isinstance(value, bool) else None
    if number is None or not 0 <= number <= HIGHEST_READING:
        raise EditError(
            f"“{printable(str(value)[:20])}” is not a number that can be read. "
            f"Use 0 to {HIGHEST_READING}, such as 161."
        )
    return str(number)


def _check(kind: Kind, item: Item, show: Show) -> Check:
    if kind in AT_A_FIXTURE:
        return Check(kind, _fixture(show, item.get("fixture")))
    if kind in AT_A_STOP:
        line = next((line for line in show.lines if line.name == item.get("line")), None)
        stop = item.get("stop")
        if line is None or not any(held.id == stop for held in line.stops):
            raise EditError(f"There is no device {stop} on a line “{item.get('line')}”.")
        return Check(kind, line=line.name, stop=int(str(stop)))
    if kind is Kind.NODE:
        box = next((box for box in show.boxes if box.name == item.get("box")), None)
        port = item.get("port")
        if box is None or not isinstance(port, int) or box.port(port) is None:
            raise EditError(f"There is no port {port} of a node “{item.get('box')}”.")
        return Check(kind, box=box.name, port=port)
    return Check(kind)


def _fixture(show: Show, label: object) -> int:
    found = [fixture.id for fixture in show.fixtures if fixture.label == label]
    name = printable(str(label)[:60])
    if not found:
        raise EditError(f"There is no fixture “{name}”. Use its label.")
    if len(found) > 1:
        raise EditError(f"{len(found)} fixtures are called “{name}”: rename all but one.")
    return found[0]


def as_json(finding: Finding) -> dict[str, Any]:
    """Where a search stands: causes by probability, the next check, whether it is settled."""
    show = finding.search.show
    return {
        "causes": [
            {
                "trouble": str(suspect.fault.trouble),
                **_place(show, suspect.fault),
                "value": suspect.fault.value,
                "probability": round(suspect.probability, 6),
                "why": finding.why(suspect),
            }
            for suspect in finding.suspects
        ],
        "next": _next(finding, finding.checks[0]) if finding.checks else None,
        "settled": finding.settled,
    }


def _place(show: Show, fault: Fault) -> dict[str, Any]:
    fixture = show.fixture_by_id.get(fault.fixture or 0)
    return {
        "fixture": fixture.label if fixture else None,
        "line": fault.line or None,
        "stop": fault.stop,
        "box": fault.box or None,
        "port": fault.port,
    }


def _next(finding: Finding, found: Next) -> dict[str, Any]:
    show, check = finding.search.show, found.check
    fixture = show.fixture_by_id.get(check.fixture)
    return {
        "id": check.id,
        "kind": str(check.kind),
        "asks": asks(show, check),
        "minutes": found.minutes,
        "fixture": fixture.label if fixture else None,
        "line": check.line or None,
        "stop": check.stop or None,
        "box": check.box or None,
        "port": check.port or None,
        "sends": _sends(finding, check),
        "answers": [{"id": str(one), "text": text} for one, text in answers_of(check.kind)],
    }


def _sends(finding: Finding, check: Check) -> dict[str, Any] | None:
    """What is sent for a look: the levels that are not at zero, if any (a lamp that has no dimmer
    needs none)."""
    if check.kind is not Kind.LOOK:
        return None
    frames = finding.search.foresight.frames_for(finding.search.show.fixture(check.fixture))
    sent = [
        {
            "universe": universe,
            "levels": {str(slot): level for slot, level in enumerate(frame, 1) if level},
        }
        for universe, frame in frames.items()
    ]
    return next((one for one in sent if one["levels"]), sent[0] if sent else None)


def troubleshooting_schema() -> str:
    """The JSON Schema of what ``fence troubleshoot`` reads and prints, as it stands in the docs."""
    text, number = {"type": "string"}, {"type": "integer"}
    place = {
        "fixture": {"type": ["string", "null"]},
        "line": {"type": ["string", "null"]},
        "stop": {"type": ["integer", "null"]},
        "box": {"type": ["string", "null"]},
        "port": {"type": ["integer", "null"]},
    }
    evidence = [
        {
            "type": "object",
            "properties": {
                "kind": {"const": str(kind)},
                "answer": {"enum": [str(answer) for answer in answers]},
                "value": {"type": ["string", "integer", "null"]},
                **place,
            },
            "required": ["kind", "answer"],
        }
        for kind, answers in ANSWERS.items()
    ]
    cause = _thing(
        {
            "trouble": {"enum": [str(trouble) for trouble in Trouble]},
            **place,
            "value": text,
            "probability": {"type": "number", "minimum": 0, "maximum": 1},
            "why": {"type": "array", "items": text},
        }
    )
    levels = {"type": "object", "additionalProperties": {**number, "minimum": 1, "maximum": 255}}
    check = _thing(
        {
            "id": text,
            "kind": {"enum": [str(kind) for kind in Kind]},
            "asks": text,
            "minutes": {"type": "number", "exclusiveMinimum": 0},
            **place,
            "sends": {"anyOf": [_thing({"universe": number, "levels": levels}), {"type": "null"}]},
            "answers": {"type": "array", "items": _thing({"id": text, "text": text})},
        }
    )
    printed = _thing(
        {
            "causes": {"type": "array", "items": {"$ref": "#/$defs/cause"}},
            "next": {"anyOf": [{"$ref": "#/$defs/check"}, {"type": "null"}]},
            "settled": {"type": "boolean"},
        }
    )
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "fence troubleshoot",
        "description": "What it prints; evidence, the list that it reads, is under $defs.",
        **printed,
        "$defs": {
            "cause": cause,
            "check": check,
            "evidence": {"type": "array", "items": {"anyOf": evidence}},
        },
    }
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


def _thing(properties: dict[str, Any]) -> dict[str, Any]:
    """An object with these fields, and no others."""
    return {
        "type": "object",
        "properties": properties,
        "required": list(properties),
        "additionalProperties": False,
    }
