"""How well, and how quickly, a search finds hidden faults.

Random faults of every kind are hidden on the demo show and on random rigs, and answered by a
second simulation: how often what is called settled is so, how often the true cause is among the
first three, how many checks it takes beside going one by one; the same with 5 % wrong answers; and
a table of how often causes said at some percent were so. Then the time from an answer to the next
check on large rigs, as a ratio to one look at the whole rig by the practice rig.

    python bench/troubleshooting.py [CASES]
"""

from __future__ import annotations

import json
import sys
from collections import Counter
from dataclasses import dataclass, field
from math import log2
from pathlib import Path
from random import Random
from statistics import median
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.core.troubleshooting.hiding import (
    KINDS,
    hidden,
    is_it,
    mended_one_by_one,
    searched,
    signs_of_each,
    symptom,
)
from tests.core.troubleshooting.rigs import random_rig
from tests.core.troubleshooting.second import Field

from fence.core.model.box import Box, BoxKind, Port
from fence.core.model.fixture import Fixture
from fence.core.model.line import Line, Source, Stop
from fence.core.model.patch import Patch
from fence.core.model.show import Show, Universe
from fence.core.simulation.practice import PracticeRig
from fence.core.troubleshooting.evidence import Answer, Check, Evidence, Kind
from fence.core.troubleshooting.search import Search
from fence.demo import clean_show
from fence.formats.troubleshooting import as_json, read_evidence
from fence.library import shipped_profiles

CASES = 400
A_RIG = 4
USUAL = {
    Kind.LOOK: Answer.RIGHT,
    Kind.TESTER: Answer.SIGNAL,
    Kind.POWER: Answer.ON,
    Kind.DISPLAY: Answer.SAYS,
    Kind.LISTENS: Answer.YES,
    Kind.RDM: Answer.ANSWERS,
    Kind.DESK: Answer.SENDS,
    Kind.SWAP: Answer.NO_CHANGE,
}
"""What is answered where nothing is wrong."""
A_LINE, PORTS = 30, 8
"""Fixtures of a line, and ports of a node."""


def large(count: int) -> Show:
    """So many fixtures of one type, a line and a port for each thirty of them."""
    profile = shipped_profiles()[0]
    mode = min(profile.modes, key=lambda one: (one.footprint, one.name))
    fixtures, lines, boxes = [], [], []
    boxes.append(Box(1, "Desk", BoxKind.DESK, "10.0.0.1", 8))
    universes = -(-count // A_LINE)
    for number in range(universes):
        ids = range(number * A_LINE + 1, min(count, (number + 1) * A_LINE) + 1)
        fixtures += [
            Fixture(
                id=one,
                label=f"F{one}",
                profile=profile.id,
                mode=mode.name,
                patch=(Patch(number + 1, 1 + (one - ids[0]) * mode.footprint),),
            )
            for one in ids
        ]
        stops = [Stop(at, at - 1 or None, fixture=one) for at, one in enumerate(ids, 1)]
        source = Source(2 + number // PORTS, number % PORTS + 1)
        lines.append(Line(number + 1, f"Line {number + 1}", number + 1, source, stops=tuple(stops)))
    for number in range(-(-universes // PORTS)):
        first = number * PORTS
        ports = [Port(n + 1, first + n + 1) for n in range(min(PORTS, universes - first))]
        address = f"10.1.{number // 250}.{number % 250 + 1}"
        name = f"Node {number + 1}"
        boxes.append(Box(2 + number, name, ip=address, prefix=8, ports=tuple(ports)))
    return Show(
        f"{count} fixtures",
        tuple(fixtures),
        (profile,),
        tuple(Universe(n + 1) for n in range(universes)),
        lines=tuple(lines),
        boxes=tuple(boxes),
        next_id=count + 1,
    )


@dataclass
class Score:
    """What came of many searches."""

    cases: int = 0
    settled: int = 0
    right: int = 0
    first: int = 0
    three: int = 0
    checks: list[int] = field(default_factory=list)
    alike: list[int] = field(default_factory=list)
    one_by_one: list[int] = field(default_factory=list)
    said: Counter[int] = field(default_factory=Counter)
    was: Counter[int] = field(default_factory=Counter)

    def told(self, name: str) -> None:
        """Print it."""
        share = self.right / max(1, self.settled)
        most = 1.3 * log2(max(2, median(self.alike)))
        print(f"{name}: {self.cases} cases, settled {self.settled / self.cases:.0%}")
        print(f"  of those right {share:.1%}; first {self.first / self.cases:.1%}")
        print(f"  among the first three {self.three / self.cases:.1%}")
        print(
            f"  checks: median {median(self.checks)}, 1.3 times the logarithm of what was alike "
            f"{most:.1f}, one by one {median(self.one_by_one)}"
        )
        for tenth in sorted(self.said):
            of = self.said[tenth]
            print(f"  said {tenth * 10} to {tenth * 10 + 10} %: {self.was[tenth] / of:.0%} of {of}")


def score(rig: Show | None, cases: int, seed: int, slips: float) -> Score:
    """Search for so many hidden faults, on a rig or on random ones, four on each."""
    chance, found = Random(seed), Score()
    show = rig or random_rig(chance)
    search, tried = Search(show), 0
    while found.cases < cases:
        tried += 1
        if rig is None and not tried % A_RIG:
            show = random_rig(chance)
            search = Search(show)
        fault = hidden(show, chance.choice(KINDS), chance)
        if fault is None:
            continue
        seen_by = Field(show, [fault], slips, chance)
        if (first := symptom(seen_by, chance)) is None:
            continue
        begun = search.after(read_evidence(json.dumps([first]).encode(), show))
        shares = sorted(begun.belief.chances, reverse=True)
        found.alike.append(sum(1 for share in shares if share > shares[0] / 100))
        outcome = searched(search, seen_by, first)
        place = outcome.place_of(fault, show)
        found.cases += 1
        found.checks.append(outcome.checks)
        found.one_by_one.append(found.alike[-1] // 2)
        found.first += place == 0
        found.three += place is not None and place < 3
        if outcome.told["settled"]:
            found.settled += 1
            found.right += place == 0
        for cause in outcome.told["causes"][:3]:
            tenth = min(9, int(cause["probability"] * 10))
            found.said[tenth] += 1
            found.was[tenth] += is_it(fault, cause, show)
    return found


def two_at_once(cases: int, seed: int) -> None:
    """Two faults at once on random rigs: what is found is mended, and what was not right is looked
    at again."""
    chance, done, both = Random(seed), 0, 0
    while done < cases:
        show = random_rig(chance)
        search = Search(show)
        for _ in range(A_RIG):
            faults = [
                one for kind in chance.sample(KINDS, 2) if (one := hidden(show, kind, chance))
            ]
            signs = signs_of_each(show, faults, chance) if len(faults) == 2 else []
            if not signs:
                continue
            done += 1
            both += len(mended_one_by_one(search, faults, signs)) == 2
    print(f"two at once: {done} cases, both found {both / done:.1%}")


def speed(show: Show, name: str) -> None:
    """The time from an answer to the next check, beside one look at the whole rig."""
    search = Search(show)
    dark = Evidence(Check(Kind.LOOK, show.fixtures[len(show.fixtures) // 2].id), Answer.DARK)
    began = perf_counter()
    finding = search.after([dark])
    as_json(finding)
    first = perf_counter() - began
    evidence, times = [dark], []
    for _ in range(6):
        if not finding.checks:
            break
        check = finding.checks[0].check
        if check.kind not in USUAL:
            break
        said = str(show.fixture(check.fixture).start) if check.kind is Kind.DISPLAY else ""
        evidence.append(Evidence(check, USUAL[check.kind], said))
        began = perf_counter()
        finding = search.after(evidence)
        as_json(finding)
        times.append(perf_counter() - began)
    began = perf_counter()
    _ = PracticeRig(show).signals
    whole = perf_counter() - began
    later = median(times) if times else first
    print(
        f"{name}: first {first * 1000:.0f} ms, then {later * 1000:.0f} ms ({len(times)} checks), "
        f"{later / whole:.1f} times all signals of the rig"
    )


def main() -> None:
    """Print all."""
    cases = int(sys.argv[1]) if len(sys.argv) > 1 else CASES
    score(clean_show(), cases, 1, 0.0).told("demo show")
    score(clean_show(), cases // 2, 2, 0.05).told("demo show, 5 % wrong answers")
    score(None, cases, 3, 0.0).told("random rigs")
    score(None, cases // 2, 4, 0.05).told("random rigs, 5 % wrong answers")
    two_at_once(max(1, cases // 5), 5)
    speed(clean_show(), "64 fixtures")
    for count in (500, 20_000):
        speed(large(count), f"{count} fixtures")


if __name__ == "__main__":
    main()
