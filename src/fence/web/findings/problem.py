"""A finding beside what is picked: the rule, and the ways out."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.addressing.mends import Mend, mends_for
from fence.core.checks import RULES, Finding
from fence.core.checks.finding import Rule
from fence.core.model.show import Show


@dataclass(frozen=True, slots=True)
class Problem:
    """A finding about what is picked, with the ways out; ``chosen`` where it was asked for."""

    finding: Finding
    rule: Rule
    mends: tuple[Mend, ...]
    chosen: bool = False


def problem_of(show: Show, finding: Finding, *, chosen: bool = False) -> Problem:
    """A finding with its rule and its ways out."""
    return Problem(finding, RULES[finding.rule], tuple(mends_for(show, finding)), chosen)
