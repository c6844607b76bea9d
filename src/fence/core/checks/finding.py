"""What a rule says: the finding, how bad it is, and which rules there are."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from zlib import crc32

MOST_SPELLED = 12
"""Fixtures that a key names one by one; of more it names the first, how many there are and a
checksum of all."""


class Severity(StrEnum):
    """``stop``: it will not work. ``caution``: it may not, or not for long. ``note``: good to
    know."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return RANKS[self]


RANKS = {severity: place for place, severity in enumerate(Severity)}


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule: its id, what it is called and why it matters."""

    id: str
    title: str
    why: str


@dataclass(frozen=True, slots=True)
class Finding:
    """What a rule saw. ``fixtures`` are ids; ``first`` and ``last`` the slots concerned, None where
    there are none.

    ``line`` and ``line_id`` are name and id of the line that it is about, ``stop`` the id of the
    stop on it; ``box`` and ``box_id`` those of the box, ``port`` the number of the port on it. What
    is about the network as a whole has an empty ``box``.

    ``about`` tells the statements of one rule apart that can be made of one place: which part of a
    fixture, which of two reasons. Two findings of one show never have the same rule, place and
    ``about``.
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
    about: str = ""
    line_id: int | None = None
    box_id: int | None = None

    @property
    def key(self) -> str:
        """A name for this finding that stays the same while it says the same of the same place.

        It does not tell how bad it is: the 33rd load of a line is the same finding as the 32nd, and
        worse.
        """
        on_line = () if self.line_id is None else ("line", self.line_id, self.stop or 0)
        at_box = () if self.box is None else ("box", self.box_id or 0, self.port or 0)
        about = (self.about,) if self.about else ()
        ids = "-".join(map(str, self.fixtures))
        if len(self.fixtures) > MOST_SPELLED:
            ids = f"{self.fixtures[0]}-and-{len(self.fixtures) - 1}-{crc32(ids.encode()):08x}"
        fixtures = (ids,) if ids else ()
        place = (*fixtures, f"u{self.universe or 0}", self.first or 0)
        return f"{self.rule}:" + "-".join(map(str, (*place, *on_line, *at_box, *about)))

    @property
    def old_key(self) -> str:
        """The key as waivers have kept it from before keys told statements apart, and lines and
        boxes of one name."""
        on_line = () if self.line is None else (self.line, self.stop or 0)
        at_box = () if self.box is None else ("box", self.box, self.port or 0)
        place = (self.rule, *self.fixtures, f"u{self.universe or 0}", self.first or 0)
        return "-".join(map(str, (*place, *on_line, *at_box)))

    @property
    def step(self) -> str:
        """The step of the work at which it is mended: ``Network``, ``Lines`` or ``Address``."""
        if self.box is not None:
            return "Network"
        return "Address" if self.line is None else "Lines"


def which_parts(*parts: int) -> str:
    """Which parts of its fixtures (from 0) a finding is about; empty where it is the first of each,
    as usual."""
    return "parts " + "+".join(str(part + 1) for part in parts) if any(parts) else ""


@dataclass(frozen=True, slots=True)
class Verdict:
    """How many findings of each kind, and how many fixtures have neither a stop nor a caution."""

    stops: int
    cautions: int
    notes: int
    clear: int


def tally(findings: Iterable[Finding], fixtures: int) -> Verdict:
    """Count findings by severity, and the fixtures out of ``fixtures`` that no stop or caution
    names."""
    counts = dict.fromkeys(Severity, 0)
    troubled: set[int] = set()
    for finding in findings:
        counts[finding.severity] += 1
        if finding.severity is not Severity.NOTE:
            troubled.update(finding.fixtures)
    return Verdict(
        counts[Severity.STOP],
        counts[Severity.CAUTION],
        counts[Severity.NOTE],
        fixtures - len(troubled),
    )


def worst_first(findings: Iterable[Finding]) -> Iterator[Finding]:
    """Findings by severity, then by place."""
    yield from sorted(
        findings, key=lambda f: (f.severity.rank, f.universe or 0, f.first or 0, f.fixtures)
    )


CLASH = "overlap"
"""The rule that two meet in a slot."""
OF_THE_FIXTURE = {"page-size", "desk-layout", "mode-missing", "no-address"}
"""Rules that speak of a fixture wherever it stands."""


def news(known: Iterable[Finding], found: Iterable[Finding]) -> list[Finding]:
    """The findings that none of the ``known`` ones has said already, or not as badly.

    One that speaks of a whole list (all fixtures of a universe beyond the desk) is no news where
    the list only shrank, nor is one about the fixture itself where it only moved, nor a clash of a
    group whose members, each by itself, were said to take these slots as well: it is told once now,
    and not for each.
    """
    known = tuple(known)
    same = set(map(id, known))
    found = [finding for finding in found if id(finding) not in same]
    if not found:
        return []
    worst: dict[str, int] = {}
    listed: dict[_List, set[int]] = {}
    clashes: dict[tuple[int | None, str], list[Finding]] = {}
    for finding in known:
        if finding.rule == CLASH:
            clashes.setdefault((finding.universe, finding.about), []).append(finding)
        key, rank = finding.key, finding.severity.rank
        worst[key] = min(rank, worst.get(key, rank))
        for severity in list(Severity)[rank:]:
            listed.setdefault(_list_of(finding, severity), set()).update(finding.fixtures)

    def said(finding: Finding) -> bool:
        if worst.get(finding.key, len(Severity)) <= finding.severity.rank:
            return True
        if finding.rule == CLASH and _each_was_there(
            finding, clashes.get((finding.universe, finding.about), [])
        ):
            return True
        whole = finding.first is None or finding.rule in OF_THE_FIXTURE
        before = listed.get(_list_of(finding, finding.severity), set())
        return whole and bool(finding.fixtures) and before.issuperset(finding.fixtures)

    return [finding for finding in found if not said(finding)]


def _each_was_there(clash: Finding, known: Iterable[Finding]) -> bool:
    """Whether all of a clash were said to meet in these slots, among themselves and with nobody
    else."""
    members, there = set(clash.fixtures), set[int]()
    for one in known:
        if members.issuperset(one.fixtures) and _covers(one, clash):
            there.update(one.fixtures)
    return there == members


def _covers(one: Finding, other: Finding) -> bool:
    """Whether the slots of the first hold those of the other."""
    first, last = one.first or 0, one.last or 0
    return first <= (other.first or 0) and (other.last or 0) <= last


_List = tuple[str, int | None, str, Severity]


def _list_of(finding: Finding, severity: Severity) -> _List:
    universe = None if finding.rule in OF_THE_FIXTURE else finding.universe
    return finding.rule, universe, finding.about, severity
