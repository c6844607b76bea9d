"""The check of a rig in a file."""

from __future__ import annotations

import gc
import json
import sys
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import Any

import click

from fence.cli.common import file_argument, json_option, rig_of
from fence.core import edits
from fence.core.addressing.mends import mends_for
from fence.core.checks import MOST_FINDINGS, Finding, Severity, check, findings_of
from fence.core.model.show import Show
from fence.core.model.space import use_of
from fence.core.model.text import counted, printable

MOST_PRINTED = 500


@click.command(name="check")
@file_argument
@json_option
def check_command(file: Path, as_json: bool) -> None:
    """Check a rig in a .csv or .json FILE. Exit 1 if there are stops."""
    # the process ends soon, and walking over all fixtures again and again is a third of its time
    gc.disable()
    show = edits.end_waivers(rig_of(file), date.today())
    stops = print_findings_json(show) if as_json else print_findings(show)
    raise SystemExit(1 if stops else 0)


def print_findings_json(show: Show) -> int:
    """Print findings one by one, so that a rig with very many needs no memory for them; gives the
    stops."""
    stops = 0
    write, encode = sys.stdout.write, json.JSONEncoder(ensure_ascii=False).encode
    write('{"findings":[')
    for place, finding in enumerate(check(show)):
        stops += finding.severity is Severity.STOP
        write(("," if place else "") + encode(finding_data(show, finding)))
    universes = json.dumps(list(universe_data(show)))
    write(f'],"universes":{universes}}}\n')
    return stops


def finding_data(show: Show, finding: Finding) -> dict[str, Any]:
    """A finding as other programs read it."""
    return {
        "rule": finding.rule,
        "severity": str(finding.severity),
        "universe": finding.universe,
        "first": finding.first,
        "last": finding.last,
        "line": finding.line,
        "box": finding.box or None,
        "fixtures": [show.fixture(fixture_id).label for fixture_id in finding.fixtures],
        "message": finding.message,
        "mends": [mend.text for mend in mends_for(show, finding)],
    }


def universe_data(show: Show) -> Iterator[dict[str, Any]]:
    """How full each universe is, as other programs read it."""
    for universe in show.universes:
        use = use_of(show, universe.number)
        gap = (
            {"first": use.largest_gap.first, "length": use.largest_gap.length}
            if use.largest_gap
            else None
        )
        yield {"number": universe.number, "used": use.used, "free": use.free, "largest_gap": gap}


def print_findings(show: Show) -> int:
    """Print findings for people, worst first; gives the stops."""
    found, lines = findings_of(show), list[str]()
    for finding in found[:MOST_PRINTED]:
        place = f"U{finding.universe} " if finding.universe else ""
        slots = f"{finding.first}-{finding.last} " if finding.first else ""
        lines.append(f"{finding.severity}: {place}{slots}{finding.rule}: {finding.message}")
        for mend in mends_for(show, finding)[:3]:
            lines.append(f"    {mend.text}")
    if len(found) > MOST_PRINTED:
        lines.append(f"… and {len(found) - MOST_PRINTED} more")
    for use in (use_of(show, universe.number) for universe in show.universes):
        largest = (
            f", largest gap {use.largest_gap.length} at {use.largest_gap.first}"
            if use.largest_gap
            else ""
        )
        lines.append(f"U{use.universe}: {use.used} of {use.sent} taken, {use.free} free{largest}")
    stops = sum(finding.severity is Severity.STOP for finding in found)
    more = "At least " if len(found) >= MOST_FINDINGS else ""
    lines.append(
        f"{more}{counted(stops, 'stop')} in {counted(len(found), 'finding')}, "
        f"{counted(len(show.fixtures), 'fixture')}."
    )
    click.echo("\n".join(map(printable, lines)))
    return stops
