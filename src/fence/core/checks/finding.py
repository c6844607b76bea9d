"""What a rule says: the finding, how bad it is, and which rules there are."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum


class Severity(StrEnum):
    """``stop``: it will not work. ``caution``: it may not, or not for long. ``note``: good to know."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return list(Severity).index(self)


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule: its id, what it is called and why it matters."""

    id: str
    title: str
    why: str


@dataclass(frozen=True, slots=True)
class Finding:
    """What a rule saw. ``fixtures`` are ids; ``first`` and ``last`` the slots concerned, None where there are none."""

    rule: str
    severity: Severity
    message: str
    fixtures: tuple[int, ...] = ()
    universe: int | None = None
    first: int | None = None
    last: int | None = None

    @property
    def key(self) -> str:
        """A name for this finding that stays the same while what it is about stays the same."""
        return "-".join(map(str, (self.rule, *self.fixtures, f"u{self.universe or 0}", self.first or 0)))

    @property
    def mark(self) -> Hashable:
        """What tells it apart from those of another show. A list of many stays itself with one more in it."""
        return self.key if len(self.fixtures) <= 2 else (self.rule, self.universe)


@dataclass(frozen=True, slots=True)
class Verdict:
    """How many findings of each kind, and how many fixtures have neither a stop nor a caution."""

    stops: int
    cautions: int
    notes: int
    clear: int


def tally(findings: Iterable[Finding], fixtures: int) -> Verdict:
    """Count findings by severity, and the fixtures out of ``fixtures`` that no stop or caution names."""
    counts = dict.fromkeys(Severity, 0)
    troubled: set[int] = set()
    for finding in findings:
        counts[finding.severity] += 1
        if finding.severity is not Severity.NOTE:
            troubled.update(finding.fixtures)
    return Verdict(counts[Severity.STOP], counts[Severity.CAUTION], counts[Severity.NOTE], fixtures - len(troubled))


def worst_first(findings: Iterable[Finding]) -> Iterator[Finding]:
    """Findings by severity, then by place."""
    yield from sorted(findings, key=lambda f: (f.severity.rank, f.universe or 0, f.first or 0, f.fixtures))
