"""From symptom to cause: what most likely is wrong in a show, and what to check next."""

from __future__ import annotations

import json
from pathlib import Path

import click

from fence.cli.common import json_option, rig_of, say
from fence.core.troubleshooting.search import Search
from fence.core.troubleshooting.told import asks, cause_words, remedy
from fence.disk import read_file
from fence.formats.errors import MOST_BYTES, FileError
from fence.formats.troubleshooting import as_json as told_as_json
from fence.formats.troubleshooting import read_evidence


@click.command(name="troubleshoot")
@click.argument("file", metavar="SHOW.json", type=click.Path(path_type=Path))
@click.option(
    "--evidence",
    "seen",
    metavar="FILE",
    type=click.Path(path_type=Path),
    help="What was seen so far: a JSON list, each with kind, where, and answer.",
)
@json_option
def troubleshoot_command(file: Path, seen: Path | None, as_json: bool) -> None:
    """What most likely is wrong, and the check that tells most for its time."""
    show = rig_of(file)
    evidence = []
    if seen is not None:
        try:
            evidence = read_evidence(read_file(seen, MOST_BYTES), show)
        except FileError as error:
            raise FileError(f"{seen}: {error}") from None
    finding = Search(show).after(evidence)
    if as_json:
        click.echo(json.dumps(told_as_json(finding), ensure_ascii=False))
        return
    for suspect in finding.suspects[:5]:
        say(f"{suspect.probability:4.0%}  {cause_words(show, [suspect.fault])}")
        for reason in finding.why(suspect):
            say(f"      {reason}")
    if finding.settled:
        say(f"Settled. {remedy(show, finding.suspects[0].fault)}")
    elif finding.checks:
        found = finding.checks[0]
        say(f"Next, {found.minutes:g} min: {asks(show, found.check)}")
    else:
        say("Nothing that can be checked here tells more.")
