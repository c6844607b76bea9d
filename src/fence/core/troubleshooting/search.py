"""A search from symptom to cause: evidence in, causes with their reasons and the next check out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import log
from zlib import crc32

from fence.core.model.show import Show
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.asking import Next, is_settled, next_checks
from fence.core.troubleshooting.belief import LEAST, Belief, Weighing, chance
from fence.core.troubleshooting.causes import WEIGHTS, causes_of
from fence.core.troubleshooting.evidence import Answer, Check, Evidence, Kind
from fence.core.troubleshooting.foresight import Foresight
from fence.core.troubleshooting.told import evidence_words

TOLD = 12
"""Causes that are told with their reasons."""
COUNTED = 400
"""Sets of causes that are counted together for each of them."""
SPEAKS = log(1.5)
"""From how much likelier a piece of evidence is on it speaks for a cause, or against it."""


@dataclass(frozen=True, slots=True)
class Suspect:
    """A cause, how likely it is, and what speaks for it and against it."""

    fault: Fault
    probability: float
    speaks_for: tuple[Evidence, ...]
    speaks_against: tuple[Evidence, ...]


def rests_on(show: Show, check: Check) -> int:
    """A number for what the answer of a check rests on: another plan, another record of what was
    set, another way of the signal, and it is another number."""
    fixture = show.fixture_by_id.get(check.fixture)
    told: list[object] = [check]
    if fixture is not None:
        told += [fixture.mode, fixture.patch, fixture.set_to, fixture.read_back]
        told.append(show.way_in.get(fixture.id, 0))
    told += [line for line in show.lines if line.name == check.line]
    told += [box for box in show.boxes if box.name == check.box]
    return crc32(repr(told).encode())


class Search:
    """A show in which something is wrong. It is made once for a show and asked again and again."""

    def __init__(self, show: Show, weights: Mapping[Trouble, float] = WEIGHTS) -> None:
        self.show, self.weights = show, dict(weights)
        self.foresight = Foresight(show)
        self.weighing = Weighing(self.foresight, causes_of(show, weights))

    def after(self, evidence: Sequence[Evidence]) -> Finding:
        """Where the search stands after all of this evidence."""
        return Finding(self, self.weighing.believed(evidence))


@dataclass(frozen=True)
class Finding:
    """Where a search stands."""

    search: Search
    belief: Belief

    @cached_property
    def settled(self) -> bool:
        """Whether one cause stands out, or two that are there together."""
        return is_settled(self.search.weighing, self.belief)

    @cached_property
    def checks(self) -> list[Next]:
        """The checks worth making next, the best first; none once it is settled."""
        return next_checks(self.search.weighing, self.belief)

    @cached_property
    def suspects(self) -> tuple[Suspect, ...]:
        """The likeliest causes, likeliest first; one of several at once counts in each."""
        shares: dict[Fault, float] = {}
        for faults, share in self.belief.best(COUNTED):
            for fault in faults:
                shares[fault] = shares.get(fault, 0.0) + share
        order = sorted(shares, key=lambda fault: -shares[fault])[:TOLD]
        found: dict[Fault, Suspect] = {}
        for fault in order:
            named = self._with_value(fault)
            if named in found:
                kept = found[named]
                found[named] = replace(kept, probability=kept.probability + shares[fault])
                continue
            found[named] = Suspect(named, shares[fault], *self._reasons(fault))
        return tuple(sorted(found.values(), key=lambda one: -one.probability))

    def _with_value(self, fault: Fault) -> Fault:
        """A wrong address that was read has it."""
        if fault.trouble is not Trouble.WRONG_ADDRESS or fault.value:
            return fault
        for one in reversed(self.belief.evidence):
            read = one.check.kind is Kind.DISPLAY and one.answer is Answer.SAYS
            if read and one.check.fixture == fault.fixture:
                return replace(fault, value=one.value)
        return fault

    def _reasons(self, fault: Fault) -> tuple[tuple[Evidence, ...], tuple[Evidence, ...]]:
        """The evidence that is likelier with the cause than without any, and the other way."""
        speaks_for, against = [], []
        faults = () if fault.trouble is Trouble.NOTHING else (fault,)
        foreseen = self.search.foresight.foreseen
        for one in self.belief.evidence:
            own = log(max(LEAST, chance(one, foreseen(one.check, faults))))
            usual = log(max(LEAST, chance(one, foreseen(one.check, ()))))
            if own - usual > SPEAKS:
                speaks_for.append(one)
            elif own - usual < -SPEAKS:
                against.append(one)
        return tuple(speaks_for), tuple(against)

    def why(self, suspect: Suspect) -> list[str]:
        """The reasons in words: what speaks for a cause, then what speaks against it."""
        show = self.search.show
        return [
            *(f"For it: {evidence_words(show, one)}." for one in suspect.speaks_for),
            *(f"Against it: {evidence_words(show, one)}." for one in suspect.speaks_against),
        ]
