"""Random faults of every kind, hidden on a rig, and searches for them by what a second simulation
answers."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from random import Random
from typing import Any

from fence.core.model.line import Cable, Device
from fence.core.model.show import Show
from fence.core.troubleshooting.search import Search
from fence.formats.troubleshooting import as_json, read_evidence
from tests.core.troubleshooting.second import Field, Hidden, sends_for

AT_FIXTURES = ("deaf", "no-power", "no-lamp", "own-program", "wrong-mode", "wrong-address")
ON_RUNS = ("plug-out", "wrong-cable", "swapped-pair")
AT_PORTS = ("wrong-universe", "off-by-one", "port-off")
OF_UNIVERSES = ("not-sent", "second-source")
KINDS = (
    *AT_FIXTURES,
    *ON_RUNS,
    *AT_PORTS,
    *OF_UNIVERSES,
    *("flat", "unlinked", "no-terminator", "splitter-off", "output-dead"),
    *("other-network", "blackout"),
)
MOST_CHECKS = 30


def hidden(show: Show, kind: str, chance: Random) -> Hidden | None:
    """A fault of a kind somewhere on a rig; None where there is no place for it."""
    places = list(_places(show, kind, chance))
    return chance.choice(places) if places else None


def _places(show: Show, kind: str, chance: Random) -> Sequence[Hidden]:
    stops = [(line, stop) for line in show.lines for stop in line.stops]
    listening = [f for f in show.fixtures if (m := show.mode_of(f)) is not None and m.footprint]
    fed = {(line.source.box, line.source.port) for line in show.lines if line.source}
    if kind in AT_FIXTURES:
        return [
            one for f in listening if (one := _at_a_fixture(show, kind, f.id, chance)) is not None
        ]
    if kind == "flat":
        batteries = [f for f in listening if (p := show.profile_of(f)) and p.battery_hours]
        return [Hidden(kind, f.id) for f in batteries]
    if kind == "unlinked":
        return [
            Hidden(kind, stop.fixture)
            for _, stop in stops
            if stop.cable is Cable.WIRELESS and stop.fixture is not None
        ]
    if kind in ON_RUNS:
        return [
            Hidden(kind, stop.fixture, line.name, stop.id)
            for line, stop in stops
            if stop.cable is not Cable.WIRELESS and stop.device is not Device.TERMINATOR
        ]
    if kind == "no-terminator":
        ended = {line.name for line, stop in stops if stop.device is Device.TERMINATOR}
        return [Hidden(kind, line=name) for name in sorted(ended)]
    if kind == "splitter-off":
        return [
            Hidden(kind, line=line.name, stop=stop.id)
            for line, stop in stops
            if stop.device is Device.SPLITTER and stop.boosted
        ]
    if kind == "output-dead":
        return [
            Hidden(kind, line=line.name, stop=stop.after, value=str(stop.output))
            for line, stop in stops
            if stop.output is not None
        ]
    ports = [
        (box, port) for box in show.boxes for port in box.ports if (box.id, port.number) in fed
    ]
    if kind in AT_PORTS:
        return [Hidden(kind, box=box.name, port=port.number) for box, port in ports]
    if kind == "other-network":
        return [Hidden(kind, box=name) for name in sorted({box.name for box, _ in ports})]
    if kind in OF_UNIVERSES:
        return [Hidden(kind, value=str(number)) for number in show.carried]
    return [Hidden(kind)]


def _at_a_fixture(show: Show, kind: str, fixture_id: int, chance: Random) -> Hidden | None:
    fixture = show.fixture(fixture_id)
    mode, profile = show.mode_of(fixture), show.profile_of(fixture)
    assert mode is not None
    assert profile is not None
    if kind == "wrong-mode":
        others = [other.name for other in profile.modes if other.name != mode.name]
        return Hidden(kind, fixture_id, value=chance.choice(others)) if others else None
    if kind == "wrong-address":
        address = chance.randint(1, 513 - mode.footprint)
        return Hidden(kind, fixture_id, value=str(address)) if address != fixture.start else None
    return Hidden(kind, fixture_id)


def symptom(field: Field, chance: Random) -> dict[str, Any] | None:
    """The first thing that somebody sees who brings up one fixture after another; None where all
    looks right."""
    fixtures = list(field.show.fixtures)
    chance.shuffle(fixtures)
    for fixture in fixtures:
        mode = field.show.mode_of(fixture)
        if mode is None or not mode.footprint or fixture.start is None:
            continue
        sends: Any = sends_for(field.show, fixture.id)
        frame = [0] * 512
        for slot, level in sends["levels"].items():
            frame[int(slot) - 1] = level
        frames = {sends["universe"]: frame}
        if field.planned().look(fixture.id, frames)[0] != "right":
            continue
        answer, value = field.look(fixture.id, frames)
        if answer != "right":
            told = {"value": value} if value else {}
            return {"kind": "look", "fixture": fixture.label, "answer": answer, **told}
    return None


@dataclass(frozen=True)
class Outcome:
    """How a search went: its last answer, how many checks it asked for, and all evidence."""

    told: dict[str, Any]
    checks: int
    evidence: list[dict[str, Any]]

    def place_of(self, fault: Hidden, show: Show) -> int | None:
        """At which place among the causes a fault is named, from 0; None where it is not."""
        for place, cause in enumerate(self.told["causes"]):
            if is_it(fault, cause, show):
                return place
        return None


def is_it(fault: Hidden, cause: dict[str, Any], show: Show) -> bool:
    """Whether a cause is this fault."""
    if fault.trouble != cause["trouble"]:
        return False
    if fault.box:
        return bool(cause["box"] == fault.box and cause["port"] in (None, fault.port))
    if fault.line:
        place = (fault.line, fault.stop)
        same = (cause["line"], cause["stop"]) == place
        return same and (not fault.value or cause["value"] == fault.value)
    if fault.fixture is not None:
        same = cause["fixture"] == show.fixture(fault.fixture).label
        return same and (not fault.value or cause["value"] in ("", fault.value))
    return bool(cause["value"] == fault.value)


def searched(search: Search, field: Field, first: dict[str, Any]) -> Outcome:
    """A search that is answered by a field until it is settled, or asks for nothing more."""
    evidence, checks = [first], 0
    asked: set[str] = set()
    while True:
        data = json.dumps(evidence).encode()
        told = as_json(search.after(read_evidence(data, field.show)))
        if told["settled"] or told["next"] is None or checks >= MOST_CHECKS:
            return Outcome(told, checks, evidence)
        assert told["next"]["id"] not in asked, "asked twice"
        asked.add(told["next"]["id"])
        evidence += field.answer(told["next"])
        checks += 1


def looked_at(field: Field, label: str) -> dict[str, Any]:
    """What is seen of a fixture that is brought up alone, as a piece of evidence."""
    fixture = next(one for one in field.show.fixtures if one.label == label)
    check = {
        "kind": "look",
        "fixture": label,
        "line": None,
        "stop": None,
        "box": None,
        "port": None,
    }
    sends = sends_for(field.show, fixture.id)
    return field.answer({**check, "sends": sends, "answers": []})[0]


def signs_of_each(show: Show, faults: Sequence[Hidden], chance: Random) -> list[dict[str, Any]]:
    """What somebody sees first who comes upon several faults: where each of them shows, as it looks
    with all of them there. None where one of them is not seen."""
    rig, signs = Field(show, list(faults)), {}
    for fault in faults:
        alone = symptom(Field(show, [fault]), chance)
        seen = looked_at(rig, alone["fixture"]) if alone else None
        if alone is None or seen is None or seen["answer"] == "right":
            return []
        signs[alone["fixture"]] = seen
    return list(signs.values()) if len(signs) == len(faults) else []


def mended_one_by_one(
    search: Search, faults: Sequence[Hidden], signs: Sequence[dict[str, Any]]
) -> list[Hidden]:
    """Search, mend what is found, look again at what was not right, and go on until all is right or
    nothing more is found; the faults that were named: as the likeliest where it was settled, else
    among the first three."""
    show, left, named = search.show, list(faults), []
    begun = list(signs)
    for _ in range(2 * len(faults)):
        field, evidence = Field(show, left), list(begun)
        told = as_json(search.after(read_evidence(json.dumps(evidence).encode(), show)))
        for _ in range(MOST_CHECKS):
            if told["settled"] or told["next"] is None:
                break
            evidence += field.answer(told["next"])
            told = as_json(search.after(read_evidence(json.dumps(evidence).encode(), show)))
        causes = told["causes"][: len(left) if told["settled"] else 3]
        found = [one for one in left if any(is_it(one, cause, show) for cause in causes)]
        if not found:
            return named
        named += found
        left = [one for one in left if one not in found]
        wrong = [one["fixture"] for one in begun]
        again = [looked_at(Field(show, left), label) for label in dict.fromkeys(wrong)]
        begun = [one for one in again if one["answer"] != "right"]
        if not left or not begun:
            return named
    return named
