"""How likely each cause is, given what was seen: Bayes over all causes of the rig.

People err, so no answer rules a cause out for good: a stated share of sightings is wrong.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import log

import numpy as np
from numpy.typing import NDArray

from fence.core.model.line import Line
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.causes import Causes
from fence.core.troubleshooting.evidence import ANSWERS, Answer, Check, Evidence, Kind
from fence.core.troubleshooting.foresight import ELSEWHERE, Foreseen, Foresight

SLIPS: dict[Kind, float] = {**dict.fromkeys(Kind, 0.03), Kind.LOOK: 0.02}
"""The share of wrong sightings of each kind of check (practice)."""
OF_A_COLOUR, OF_A_FLICKER = 0.06, 0.10
"""The same of what is harder to tell: a colour, and whether it flickered."""
REPORTED = 0.0002
"""The same of what somebody came with: a search begins with what was looked at twice."""
LEAST = 1e-9
TWO_AT_ONCE = 0.3
"""How likely a second trouble is beside a first one (practice)."""
AT_ONCE = 24
"""Causes of which pairs are made where one does not explain all."""
EXPLAINED = 0.05
"""From how likely on a piece of evidence is explained by a cause."""


def chance(evidence: Evidence, foreseen: Foreseen, *, reported: bool = False) -> float:
    """How likely a piece of evidence is, where a check would answer so; above 0 always.
    ``reported`` is what the search began with."""
    check, answer = evidence.check, evidence.answer
    slip = REPORTED if reported else _slip(check.kind, answer)
    if check.kind is Kind.DISPLAY:
        return _of_display(evidence, foreseen, slip)
    if check.kind is Kind.NODE and answer is Answer.SAYS:
        known = foreseen.get((answer, evidence.value), 0.0)
        known += foreseen.get((answer, ""), 0.0) * 0.02
        return (1 - slip) * known + slip * 0.01
    wide = 1.0
    if answer is Answer.ANOTHER:
        wide = 0.05
    share = foreseen.get((answer, evidence.value), 0.0)
    return (1 - slip) * share + slip * wide / (len(ANSWERS[check.kind]) - 1)


def _slip(kind: Kind, answer: Answer) -> float:
    if answer is Answer.FLICKER:
        return OF_A_FLICKER
    return OF_A_COLOUR if answer is Answer.OTHER_COLOUR else SLIPS[kind]


def _of_display(evidence: Evidence, foreseen: Foreseen, slip: float) -> float:
    """What a display says: an address, or the name of a mode."""
    told = {
        value: share for (answer, value), share in foreseen.items() if answer is evidence.answer
    }
    wide = ELSEWHERE if evidence.answer is Answer.SAYS else 0.2
    if evidence.value in told:
        return (1 - slip) * told[evidence.value]
    if "" in told:
        return ELSEWHERE * told[""]
    return slip * wide


def symptom_of(evidence: Sequence[Evidence]) -> Evidence | None:
    """What the search began with: the first look at which something was not right."""
    looks = (one for one in evidence if one.check.kind is Kind.LOOK)
    return next((one for one in looks if one.answer is not Answer.RIGHT), None)


@dataclass(frozen=True)
class Belief:
    """How likely each cause is. ``faults`` are what is wrong together, nearly always one."""

    faults: tuple[tuple[Fault, ...], ...]
    chances: NDArray[np.float64]
    evidence: tuple[Evidence, ...]

    def best(self, most: int) -> list[tuple[tuple[Fault, ...], float]]:
        """The likeliest causes, likeliest first."""
        return [(self.faults[at], float(self.chances[at])) for at in self.first(most)]

    def first(self, most: int) -> list[int]:
        """The places of the likeliest causes, likeliest first."""
        count = min(most, len(self.chances))
        found = np.argpartition(-self.chances, count - 1)[:count]
        return sorted(found.tolist(), key=lambda at: (-self.chances[at], at))


def reaches_of(foresight: Foresight, causes: Causes) -> list[int]:
    """How many fixtures each cause takes."""
    show = foresight.show
    behind: dict[tuple[str, int | None], int] = {}
    of_line: dict[str, int] = {}
    of_port: Counter[tuple[str, int | None]] = Counter()
    for line in show.lines:
        wiring = foresight.kept.wiring(line)
        order = list(wiring.behind(None))
        for stop in reversed(order):
            own = behind.get((line.name, stop.id), 0) + (stop.fixture is not None)
            behind[line.name, stop.id] = own
            behind[line.name, stop.after] = behind.get((line.name, stop.after), 0) + own
        of_line[line.name] = behind.get((line.name, None), 0)
    for (name, number), lines in foresight.on_port.items():
        count = sum(of_line[line.name] for line in lines)
        of_port[name, number] += count
        of_port[name, None] += count
    of_universe = {str(number): count for number, count in show.carried.items()}
    everybody = sum(show.carried.values())
    found = []
    for fault in causes.faults:
        if fault.line:
            count = behind.get((fault.line, fault.stop), 1)
        elif fault.box:
            count = of_port[fault.box, fault.port]
        elif fault.fixture is not None or fault.trouble is Trouble.NOTHING:
            count = 1
        else:
            count = of_universe.get(fault.value, everybody)
        found.append(max(1, count))
    return found


class Weighing:
    """The causes of a rig with what is foreseen of them, and the evidence that is weighed."""

    def __init__(self, foresight: Foresight, causes: Causes) -> None:
        self.foresight, self.causes = foresight, causes
        self.prior = np.log(np.array(causes.weights, dtype=np.float64).clip(LEAST))
        self.singles = tuple((fault,) for fault in causes.faults)
        self.spread = np.log(np.array(reaches_of(foresight, causes), dtype=np.float64))
        self._touching: dict[Check, frozenset[int]] = {}

    def touched_by(self, check: Check) -> frozenset[int]:
        """The causes that may change what a check answers."""
        found = self._touching.get(check)
        if found is None:
            found = self._touching[check] = frozenset(self.touching(check))
        return found

    def of_those(self, touched: frozenset[int], faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
        """Those of some faults that are among the causes which touch a check: what only one of two
        touches is as if that one were alone."""
        place_of = self.causes.place_of
        return tuple(one for one in faults if place_of[one] in touched and place_of[one])

    def touching(self, check: Check, evidence: Evidence | None = None) -> list[int]:
        """The causes that may change what a check answers, or what was answered."""
        causes = self.causes
        found = set(causes.of_fixture.get(check.fixture, ()))
        match check.kind:
            case Kind.POWER | Kind.LISTENS | Kind.DISPLAY:
                return sorted(found)
            case Kind.DESK:
                return causes.of_all
            case Kind.NODE:
                return causes.of_box.get(check.box, [])
            case Kind.SWAP:
                here = causes.of_line.get(check.line, ())
                return [at for at in here if causes.faults[at].stop == check.stop]
        found |= set(causes.of_all)
        fixtures = [check.fixture] if check.fixture else []
        if evidence is not None and evidence.answer is Answer.ANOTHER and evidence.value.isdigit():
            fixtures.append(int(evidence.value))
        for fixture_id in fixtures:
            found |= set(causes.of_fixture.get(fixture_id, ()))
            for line, stop in self.foresight.ways.get(fixture_id, ()):
                found |= self._on_the_way(line, stop.id)
        if check.line and (named := self.foresight.line_by_name.get(check.line)):
            found |= self._on_the_way(named, check.stop)
        return sorted(found)

    def _on_the_way(self, line: Line, stop_id: int) -> set[int]:
        """What may be wrong between the source of a line and a device on it: runs, splitters, ends,
        the node, and those that pass nothing on without power."""
        causes, show = self.causes, self.foresight.show
        path = self.foresight.kept.wiring(line).path_to(stop_id)
        ids = {stop.id for stop in path}
        found = {
            at
            for at in causes.of_line.get(line.name, ())
            if causes.faults[at].stop is None or causes.faults[at].stop in ids
        }
        if line.source is not None and (box := show.box_by_id.get(line.source.box)):
            found |= {
                at
                for at in causes.of_box.get(box.name, ())
                if causes.faults[at].port in (None, line.source.port)
            }
        for stop in path:
            fixture = show.fixture_by_id.get(stop.fixture or 0)
            profile = show.profile_of(fixture) if fixture else None
            if fixture and profile and not profile.passes_unpowered:
                found |= {
                    at
                    for at in causes.of_fixture.get(fixture.id, ())
                    if causes.faults[at].trouble in (Trouble.NO_POWER, Trouble.FLAT)
                }
        return found

    def believed(self, evidence: Sequence[Evidence]) -> Belief:
        """How likely each cause is after all of this; two at once where one does not explain it."""
        logs = self.prior.copy()
        first = symptom_of(evidence)
        if first is not None:
            # somebody came with one of all those that the cause takes
            logs -= self.spread
        for one in evidence:
            usual = self.log_of(one, (), first)
            logs += usual
            for at in self.touching(one.check, one):
                logs[at] += self.log_of(one, () if at == 0 else self.singles[at], first) - usual
        single = Belief(self.singles, _normal(logs), tuple(evidence))
        pairs, of_pairs = self._pairs(evidence, first, logs)
        if not pairs:
            return single
        both = np.concatenate([logs, np.array(of_pairs)])
        return Belief((*self.singles, *pairs), _normal(both), tuple(evidence))

    def _pairs(
        self, evidence: Sequence[Evidence], first: Evidence | None, logs: NDArray[np.float64]
    ) -> tuple[list[tuple[Fault, ...]], list[float]]:
        """Two causes at once, where the best single one leaves something that only a slip would
        explain."""
        best = int(np.argmax(logs))
        unexplained = [one for one in evidence if not self._explains(best, one)]
        if not unexplained:
            return [], []
        firsts = np.argsort(-logs)[:AT_ONCE].tolist()
        others: dict[int, None] = {}
        for one in unexplained:
            mine = [at for at in self.touching(one.check, one) if at and self._explains(at, one)]
            for at in sorted(mine, key=lambda at: -self._by_itself(at, evidence, first))[:AT_ONCE]:
                others[at] = None
        found: dict[tuple[Fault, ...], float] = {}
        total = float(np.logaddexp.reduce(self.prior))
        own = _Own(self, evidence, first)
        for one_at in firsts:
            for other_at in others:
                if one_at == other_at or not one_at:
                    continue
                low, high = sorted((one_at, other_at))
                faults = (self.causes.faults[low], self.causes.faults[high])
                if faults in found or not _together(*faults):
                    continue
                weight = float(self.prior[low] + self.prior[high]) + log(2 * TWO_AT_ONCE) - total
                if first is not None:
                    weight -= float(min(self.spread[low], self.spread[high]))
                found[faults] = weight + own.of_pair(low, high)
        return list(found), list(found.values())

    def _by_itself(self, at: int, evidence: Iterable[Evidence], first: Evidence | None) -> float:
        """How likely a cause is by what was seen of what it touches, and by nothing else."""
        weight = float(self.prior[at])
        for one in evidence:
            if at in self.touched_by(one.check):
                weight += self.log_of(one, self.singles[at], first) - self.log_of(one, (), first)
        return weight

    def log_of(self, one: Evidence, faults: tuple[Fault, ...], first: Evidence | None) -> float:
        """How likely a piece of evidence is with some faults, as a logarithm."""
        foreseen = self.foresight.foreseen(one.check, faults)
        return log(max(LEAST, chance(one, foreseen, reported=one is first)))

    def unexplained(self, belief: Belief, faults: tuple[Fault, ...]) -> list[Evidence]:
        """The evidence that only a slip would explain if these were all that is wrong."""
        real = () if faults[0].trouble is Trouble.NOTHING else faults
        return [one for one in belief.evidence if not self._told_by(real, one)]

    def _explains(self, at: int, evidence: Evidence) -> bool:
        return self._told_by(() if at == 0 else self.singles[at], evidence)

    def _told_by(self, faults: tuple[Fault, ...], evidence: Evidence) -> bool:
        foreseen = self.foresight.foreseen(evidence.check, faults)
        any_number = evidence.answer is Answer.SAYS and (Answer.SAYS, "") in foreseen
        return any_number or chance(evidence, foreseen) > EXPLAINED


class _Own:
    """How likely each piece of evidence is by single causes and by pairs of them: what only one of
    two touches is as if that one were alone, which is reckoned once."""

    def __init__(
        self, weighing: Weighing, evidence: Sequence[Evidence], first: Evidence | None
    ) -> None:
        self.weighing, self.evidence, self.first = weighing, evidence, first
        self.usual = [weighing.log_of(one, (), first) for one in evidence]
        self.whole = sum(self.usual)
        self.touched = [frozenset(weighing.touching(one.check, one)) for one in evidence]
        self._gains: dict[int, dict[int, float]] = {}

    def gains(self, at: int) -> dict[int, float]:
        """By how much each piece that a cause touches is likelier with it, by its place."""
        found = self._gains.get(at)
        if found is None:
            single = self.weighing.singles[at]
            found = self._gains[at] = {
                place: self.weighing.log_of(one, single, self.first) - self.usual[place]
                for place, one in enumerate(self.evidence)
                if at in self.touched[place]
            }
        return found

    def of_pair(self, low: int, high: int) -> float:
        """How likely all evidence is with two causes at once, as a logarithm."""
        mine, other = self.gains(low), self.gains(high)
        faults = (self.weighing.causes.faults[low], self.weighing.causes.faults[high])
        found = self.whole
        for place in mine.keys() | other.keys():
            if place in mine and place in other:
                one = self.evidence[place]
                found += self.weighing.log_of(one, faults, self.first) - self.usual[place]
            else:
                found += mine.get(place, 0.0) + other.get(place, 0.0)
        return found


def _together(one: Fault, other: Fault) -> bool:
    """Whether two faults can be at once: no fixture is in two wrong modes."""
    same = one.trouble is other.trouble and (one.fixture, one.box, one.port) == (
        other.fixture,
        other.box,
        other.port,
    )
    return not (same and one.trouble in (Trouble.WRONG_MODE, Trouble.WRONG_ADDRESS))


def _normal(logs: NDArray[np.float64]) -> NDArray[np.float64]:
    shares: NDArray[np.float64] = np.exp(logs - logs.max())
    whole: NDArray[np.float64] = shares / shares.sum()
    return whole
