"""Hidden faults of every kind are found by answering what is asked for."""

from __future__ import annotations

import json
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from random import Random
from statistics import median

import pytest
from jsonschema import validate

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.troubleshooting.evidence import ANSWERS, Answer, Check, Evidence, Kind
from fence.core.troubleshooting.search import Search, rests_on
from fence.demo import clean_show
from fence.formats.errors import FileError
from fence.formats.troubleshooting import as_json, read_evidence, troubleshooting_schema
from tests.core.troubleshooting.hiding import KINDS, hidden, searched, symptom
from tests.core.troubleshooting.rigs import random_rig
from tests.core.troubleshooting.second import Field, Hidden, sends_for

ALIKE = {
    "no-terminator": {"second-terminator", "second-source", "too-many-loads"},
    "second-source": {"no-terminator", "second-terminator", "too-many-loads"},
    "no-power": {"flat"},
    "flat": {"no-power"},
}
"""Troubles that nothing which can be asked for tells from each other where they are at one place:
which of them it is, is never called settled."""
LOOK = {"kind": "look", "line": None, "stop": None, "box": None, "port": None, "answers": []}
EACH = 2
"""Faults of each kind in the suite; the bench has many more."""


@pytest.fixture(scope="module")
def search() -> Search:
    """A search on the demo show."""
    return Search(clean_show())


@pytest.mark.parametrize("kind", KINDS)
def test_hidden_faults_are_found(search: Search, kind: str) -> None:
    """What it calls settled is so; the true cause is among the first three in any case."""
    chance, show = Random(kind), search.show
    checks = []
    for _ in range(EACH):
        fault = hidden(show, kind, chance)
        assert fault is not None
        field = Field(show, [fault])
        first = symptom(field, chance)
        if first is None:
            continue
        outcome = searched(search, field, first)
        checks.append(outcome.checks)
        place = outcome.place_of(fault, show)
        assert place is not None, (fault, outcome)
        assert place < 3, (fault, outcome)
        if outcome.told["settled"]:
            assert place == 0, (fault, outcome)
        else:
            others = {cause["trouble"] for cause in outcome.told["causes"][:3]}
            assert others & (ALIKE.get(kind, set()) | {kind}), (fault, outcome)
    assert not checks or median(checks) <= 9


@pytest.mark.parametrize("seed", range(8))
def test_on_random_rigs(seed: int) -> None:
    """The same on rigs that nobody tuned anything to."""
    chance = Random(seed)
    show = random_rig(chance)
    search = Search(show)
    for kind in chance.sample(KINDS, 5):
        fault = hidden(show, kind, chance)
        if fault is None:
            continue
        field = Field(show, [fault])
        first = symptom(field, chance)
        if first is None:
            continue
        outcome = searched(search, field, first)
        place = outcome.place_of(fault, show)
        assert place is not None, (fault, outcome)
        assert place < 3, (fault, outcome)
        assert place == 0 or not outcome.told["settled"], (fault, outcome)


def test_two_at_once(search: Search) -> None:
    """Where one does not explain all, two are named first."""
    show = search.show
    by_label = {fixture.label: fixture.id for fixture in show.fixtures}
    faults = [Hidden("no-power", by_label["Lily 2"]), Hidden("deaf", by_label["Palm 3"])]
    field = Field(show, faults)
    evidence: list[dict[str, object]] = []
    for label in ("Lily 2", "Palm 3"):
        sends = sends_for(show, by_label[label])
        evidence += field.answer({**LOOK, "fixture": label, "sends": sends})
    told = as_json(search.after(read_evidence(_json(evidence), show)))
    for _ in range(25):
        if told["settled"] or told["next"] is None:
            break
        evidence += field.answer(told["next"])
        told = as_json(search.after(read_evidence(_json(evidence), show)))
    named = {(cause["trouble"], cause["fixture"]) for cause in told["causes"][:3]}
    assert {("no-power", "Lily 2"), ("deaf", "Palm 3")} <= named


def _json(items: list[dict[str, object]]) -> bytes:
    return json.dumps(items).encode()


def test_what_is_printed_is_as_documented(search: Search) -> None:
    """Evidence and result follow the schema of the docs."""
    schema = json.loads(troubleshooting_schema())
    show = search.show
    field = Field(show, [Hidden("no-power", show.fixtures[3].id)])
    first = symptom(field, Random(1))
    assert first is not None
    outcome = searched(search, field, first)
    validate(outcome.told, schema)
    validate(outcome.evidence, {**schema["$defs"]["evidence"], "$defs": schema["$defs"]})
    begun = as_json(search.after(read_evidence(_json([first]), show)))
    validate(begun, schema)
    assert begun["next"] is not None


def test_only_what_can_be_done_is_asked(search: Search) -> None:
    """No RDM of what does not speak it, no display where none is, no tester on a wireless link; no
    check twice; looks say what they send."""
    show = search.show
    by_label = {fixture.label: fixture for fixture in show.fixtures}
    for fixture in show.fixtures[::7]:
        if not search.foresight.can_look(fixture):
            continue
        finding = search.after([Evidence(Check(Kind.LOOK, fixture.id), Answer.DARK)])
        for found in finding.checks:
            check = found.check
            assert found.minutes > 0
            assert found.told > 0
            other = show.fixture_by_id.get(check.fixture)
            profile = show.profile_of(other) if other else None
            assert check.kind is not Kind.RDM or (profile and profile.rdm)
        told = as_json(finding)["next"]
        assert told["answers"]
        assert (told["kind"] == "look") == (told["sends"] is not None)
        assert told["fixture"] is None or told["fixture"] in by_label


def test_what_was_right_clears(search: Search) -> None:
    """With the last of a line right, nothing on the way to it is suspected."""
    show = search.show
    line = next(line for line in show.lines if line.name == "Line A")
    fixtures = [stop.fixture for stop in line.stops if stop.fixture is not None]
    one = Evidence(Check(Kind.LOOK, fixtures[0]), Answer.DARK)
    before = search.after([one])
    after = search.after([one, Evidence(Check(Kind.LOOK, fixtures[-1]), Answer.RIGHT)])

    def share(finding: object, trouble: str) -> float:
        counts: Counter[str] = Counter()
        for suspect in finding.suspects:  # type: ignore[attr-defined]
            counts[str(suspect.fault.trouble)] += suspect.probability
        return counts[trouble]

    assert share(before, "blackout") > 0.1
    assert share(after, "blackout") < share(before, "blackout") / 3
    assert any("Against it" not in why for why in after.why(after.suspects[0]))


@pytest.mark.parametrize(
    ("item", "told"),
    [
        ("7", "not a list"),
        ("{", "not JSON"),
        ("[1]", "Evidence 1: This is not an object"),
        ('[{"kind": "smell", "answer": "right"}]', "is not a kind. Use look, tester"),
        ('[{"kind": "look", "answer": "signal"}]', "is not an answer. Use right, dark"),
        ('[{"kind": "look", "answer": "dark", "fixture": "X"}]', "no fixture “X”"),
        ('[{"kind": "tester", "answer": "signal", "line": "Line A", "stop": 99}]', "no device 99"),
        ('[{"kind": "node", "answer": "off", "box": "palm dock", "port": 99}]', "no port 99"),
        (
            '[{"kind": "display", "answer": "says", "fixture": "Fern 5", "value": "x"}]',
            "“x” is not a number that can be read",
        ),
        (
            '[{"kind": "display", "answer": "says", "fixture": "Fern 5", "value": 100000}]',
            "Use 0 to 99999",
        ),
        (
            '[{"kind": "display", "answer": "mode", "fixture": "Fern 5", "value": "x"}]',
            "Fern 5 has no mode “x”. Use one of",
        ),
    ],
)
def test_evidence_that_cannot_be_read(search: Search, item: str, told: str) -> None:
    """It says which piece, and what is accepted."""
    with pytest.raises(FileError, match=told):
        read_evidence(item.encode(), search.show)


def test_labels_that_two_bear() -> None:
    """Which of them is meant is asked, not guessed."""
    show = edits.rename(clean_show(), 2, "Palm 1")
    with pytest.raises(FileError, match="2 fixtures are called “Palm 1”: rename all but one"):
        read_evidence(b'[{"kind": "power", "answer": "on", "fixture": "Palm 1"}]', show)


def test_searches_do_not_disturb_each_other(search: Search) -> None:
    """Two people ask one search at once; each gets the answer to what it was given."""
    one, other = (
        [Evidence(Check(Kind.LOOK, fixture), answer)]
        for fixture, answer in ((1, Answer.DARK), (9, Answer.FLICKER))
    )
    alone = [search.after(evidence).belief.chances for evidence in (one, other)]
    with ThreadPoolExecutor(4) as pool:
        told = list(pool.map(search.after, [one, other] * 20))
    for place, finding in enumerate(told):
        assert (finding.belief.chances == alone[place % 2]).all()


def test_answers_of_their_kind() -> None:
    """Each answer has its check, and a value where it says one."""
    with pytest.raises(EditError, match="not an answer of power"):
        Evidence(Check(Kind.POWER, 1), Answer.DARK)
    with pytest.raises(EditError, match="needs a value"):
        Evidence(Check(Kind.DISPLAY, 1), Answer.SAYS)
    with pytest.raises(EditError, match="takes no value"):
        Evidence(Check(Kind.POWER, 1), Answer.ON, "7")
    assert set(ANSWERS) == set(Kind)


def test_what_evidence_rests_on() -> None:
    """Another plan of a fixture, and what was seen of it counts no more; another fixture's does
    not touch it."""
    show: Show = clean_show()
    one, other = show.fixtures[0], show.fixtures[1]
    check = Check(Kind.LOOK, one.id)
    before = rests_on(show, check)
    assert rests_on(edits.mark_set(show, [other.id]), check) == before
    assert rests_on(edits.mark_set(show, [one.id]), check) != before
