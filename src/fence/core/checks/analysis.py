"""All that the rules say of one show, as screens look it up."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import chain

from fence.core.checks.finding import Finding, Severity, Verdict
from fence.core.model.waiver import Waiver


@dataclass(frozen=True)
class Analysis:
    """What the rules say of a show. ``cut`` when there were more findings than are kept.

    ``waived`` are those that are let stand, with why: they are not among the findings and not
    counted.
    """

    findings: tuple[Finding, ...]
    verdict: Verdict
    cut: bool
    waived: tuple[tuple[Finding, Waiver], ...] = ()

    @cached_property
    def by_fixture(self) -> dict[int, list[Finding]]:
        """The findings that name each fixture, worst first."""
        found: dict[int, list[Finding]] = {}
        for finding in self.findings:
            for fixture_id in finding.fixtures:
                found.setdefault(fixture_id, []).append(finding)
        return found

    @cached_property
    def by_key(self) -> dict[str, Finding]:
        """The findings by their keys."""
        return {finding.key: finding for finding in self.findings}

    @cached_property
    def along_the_fence(self) -> tuple[Finding, ...]:
        """The findings on fixtures, slot by slot through all universes."""
        on_fixtures = ((key, f) for key, f in self.by_key.items() if f.step != "Network")
        in_order = sorted((f.universe or 0, f.first or 0, key) for key, f in on_fixtures)
        return tuple(self.by_key[key] for _, _, key in in_order)

    @cached_property
    def stopped(self) -> frozenset[int]:
        """The fixtures that a stop names."""
        stops = (finding for finding in self.findings if finding.severity is Severity.STOP)
        return frozenset(chain.from_iterable(finding.fixtures for finding in stops))

    @cached_property
    def address_stops(self) -> tuple[Finding, ...]:
        """The stops of addresses: those of the cable and the network no move mends."""
        return tuple(
            finding
            for finding in self.findings
            if finding.step == "Address" and finding.severity is Severity.STOP
        )

    @cached_property
    def stops_in(self) -> dict[int, int]:
        """How many stops each universe has on its fence: those of the cable and the network stand
        with them."""
        stops: dict[int, int] = {}
        for finding in self.address_stops:
            if finding.universe is not None:
                stops[finding.universe] = stops.get(finding.universe, 0) + 1
        return stops
