"""The rules. Each family is one file; this is the register that runs them all."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import chain, islice

from fence.core.checks import address, desk, lines, network, record
from fence.core.checks.analysis import Analysis
from fence.core.checks.finding import Finding, Rule, Severity, Verdict, news, tally, worst_first
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.waiver import Waiver

FAMILIES: tuple[Callable[[Show], Iterator[Finding]], ...] = (
    address.check_addresses,
    desk.check_desk,
    lines.check_lines,
    network.check_network,
    record.check_record,
)

RULES: dict[str, Rule] = {
    rule.id: rule
    for rule in (*address.RULES, *desk.RULES, *lines.RULES, *network.RULES, *record.RULES)
}

OF_THE_RECORD = frozenset(rule.id for rule in record.RULES)
"""Rules that speak of what was set, read back or proven, not of the plan."""

MOST_FINDINGS = 5000
"""Findings that are kept for a screen. A rig can have millions (all fixtures at one address);
nobody reads them."""


def every(show: Show) -> Iterator[Finding]:
    """All findings of all families, one by one, those that are let stand among them."""
    return chain.from_iterable(family(show) for family in FAMILIES)


def check(show: Show) -> Iterator[Finding]:
    """All findings that stand open, one by one."""
    if not show.waivers:
        return every(show)
    held = _let_stand(show)
    return (finding for finding in every(show) if _waiver_of(finding, held) is None)


def _let_stand(show: Show) -> dict[str, dict[str, Waiver]]:
    """The waivers by what their findings said, then by place."""
    held: dict[str, dict[str, Waiver]] = {}
    for waiver in show.waivers:
        held.setdefault(waiver.said, {})[waiver.key] = waiver
    return held


def _waiver_of(finding: Finding, held: dict[str, dict[str, Waiver]]) -> Waiver | None:
    """Why a finding is let stand, as long as it says what it said then, in the same place."""
    alike = held.get(finding.message)
    return (alike.get(finding.key) or alike.get(finding.old_key)) if alike else None


def findings_of(show: Show, *, most: int = MOST_FINDINGS) -> list[Finding]:
    """The findings, worst first: the ``most`` worst of them where there are more.

    It stops looking once there are so many stops. Cautions and notes are never more than a few for
    each fixture.
    """
    kept: dict[Severity, list[Finding]] = {severity: [] for severity in Severity}
    for finding in check(show):
        held = kept[finding.severity]
        if len(held) < most:
            held.append(finding)
            if finding.severity is Severity.STOP and len(held) == most:
                break
    return list(islice(worst_first(chain.from_iterable(kept.values())), most))


@once_a_show
def analyse(show: Show) -> Analysis:
    """Run the rules over a show."""
    found = findings_of(show)
    held = _let_stand(show)
    pairs = ((finding, _waiver_of(finding, held)) for finding in every(show)) if held else ()
    waived = tuple((finding, waiver) for finding, waiver in pairs if waiver is not None)
    return Analysis(
        tuple(found), tally(found, len(show.fixtures)), len(found) >= MOST_FINDINGS, waived
    )


def news_of_the_plan(now: Analysis, then: Analysis) -> tuple[Finding, ...]:
    """What a change would newly make the rules say, but for what follows for fixtures that are set:
    that is counted."""
    return tuple(
        finding
        for finding in news(now.findings, then.findings)
        if finding.rule not in OF_THE_RECORD
    )


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
