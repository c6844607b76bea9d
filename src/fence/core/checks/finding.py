"""What a rule says: the finding, how bad it is, and which rules there are."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
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
    """What a rule saw. ``fixtures`` are ids; ``first`` and ``last`` the slots concerned, None where there are none.

    ``line`` is the name of the line that it is about, ``stop`` the id of the stop on it; ``box`` the name of the box,
    ``port`` the number of the port on it. What is about the network as a whole has an empty ``box``.
    """

    rule: str
    severity: Severity
    message: str
    fixtures: tuple[int, ...] = ()
    universe: int | None = None
    first: int | None = None
    last: int | None = None
    line: str | None = None
    stop: int | None = None
    box: str | None = None
    port: int | None = None

    @property
    def key(self) -> str:
        """A name for this finding that stays the same while what it is about stays the same."""
        return "-".join(
            map(
                str,
                (self.rule, *self.fixtures, f"u{self.universe or 0}", self.first or 0, *self._on_line, *self._at_box),
            )
        )

    @property
    def step(self) -> str:
        """The step of the work at which it is mended: ``Network``, ``Lines`` or ``Address``."""
        if self.box is not None:
            return "Network"
        return "Address" if self.line is None else "Lines"

    @property
    def _on_line(self) -> tuple[object, ...]:
        return () if self.line is None else (self.line, self.stop or 0)

    @property
    def _at_box(self) -> tuple[object, ...]:
        return () if self.box is None else ("box", self.box, self.port or 0)


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


OF_THE_FIXTURE = {"page-size", "desk-layout", "mode-missing", "no-address"}
"""Rules that speak of a fixture wherever it stands."""


def news(known: Iterable[Finding], found: Iterable[Finding]) -> list[Finding]:
    """The findings that none of the ``known`` ones has said already.

    One that speaks of a whole list (all fixtures of a universe beyond the desk) is no news where the list only shrank,
    nor is one about the fixture itself where it only moved.
    """
    keys: set[str] = set()
    listed: dict[tuple[str, int | None], set[int]] = {}
    for finding in known:
        keys.add(finding.key)
        listed.setdefault(_list_of(finding), set()).update(finding.fixtures)

    def said(finding: Finding) -> bool:
        if finding.key in keys:
            return True
        whole = finding.first is None or finding.rule in OF_THE_FIXTURE
        return whole and bool(finding.fixtures) and listed.get(_list_of(finding), set()).issuperset(finding.fixtures)

    return [finding for finding in found if not said(finding)]


def _list_of(finding: Finding) -> tuple[str, int | None]:
    return finding.rule, None if finding.rule in OF_THE_FIXTURE else finding.universe
