"""The rules. Each family is one file; this is the register that runs them all."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import chain, islice

from fence.core.checks import address, desk, lines, network, record
from fence.core.checks.analysis import Analysis
from fence.core.checks.finding import Finding, Rule, Severity, Verdict, news, tally, worst_first
from fence.core.words.show import Show

FAMILIES: tuple[Callable[[Show], Iterator[Finding]], ...] = (
    address.check_addresses,
    desk.check_desk,
    lines.check_lines,
    network.check_network,
    record.check_record,
)

RULES: dict[str, Rule] = {
    rule.id: rule for rule in (*address.RULES, *desk.RULES, *lines.RULES, *network.RULES, *record.RULES)
}

OF_THE_RECORD = frozenset(rule.id for rule in record.RULES)
"""Rules that speak of what was set, read back or proven, not of the plan."""

MOST_FINDINGS = 5000
"""Findings that are kept for a screen. A rig can have millions (all fixtures at one address); nobody reads them."""


def check(show: Show) -> Iterator[Finding]:
    """All findings of all families, one by one."""
    return chain.from_iterable(family(show) for family in FAMILIES)


def findings_of(show: Show, *, most: int = MOST_FINDINGS) -> list[Finding]:
    """The findings, worst first: the ``most`` worst of them where there are more.

    It stops looking once there are so many stops. Cautions and notes are never more than a few for each fixture.
    """
    kept: dict[Severity, list[Finding]] = {severity: [] for severity in Severity}
    for finding in check(show):
        held = kept[finding.severity]
        if len(held) < most:
            held.append(finding)
            if finding.severity is Severity.STOP and len(held) == most:
                break
    return list(islice(worst_first(chain.from_iterable(kept.values())), most))


def analyse(show: Show) -> Analysis:
    """Run the rules over a show."""
    found = findings_of(show)
    return Analysis(tuple(found), tally(found, len(show.fixtures)), cut=len(found) >= MOST_FINDINGS)


def news_of_the_plan(now: Analysis, then: Analysis) -> tuple[Finding, ...]:
    """What a change would newly make the rules say, but for what follows for fixtures that are set: that is counted."""
    return tuple(finding for finding in news(now.findings, then.findings) if finding.rule not in OF_THE_RECORD)


__all__ = [
    "MOST_FINDINGS",
    "OF_THE_RECORD",
    "RULES",
    "Analysis",
    "Finding",
    "Rule",
    "Severity",
    "Verdict",
    "analyse",
    "check",
    "findings_of",
    "news",
    "news_of_the_plan",
    "tally",
]
