"""At the fixture: what a display or switches say, and what most likely lies behind it."""

from __future__ import annotations

import json
from pathlib import Path

import click

from fence.cli.common import json_option, rig_of, say
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.record import HIGHEST_READING
from fence.core.model.show import Show
from fence.core.model.text import joined, whole_number
from fence.core.setting.readback import Reading, causes_of, reading_of_switches, setter_of
from fence.formats.errors import FileError


@click.command(name="readback")
@click.argument("file", metavar="SHOW.json", type=click.Path(path_type=Path))
@click.option("--label", required=True, help="The fixture, by its label.")
@click.option("--says", help="The number that it shows.")
@click.option("--on", "on", help="The switches that are on, such as 2,3,5 (empty for none).")
@click.option("--mode", default="", help="The mode that it shows, where it does.")
@json_option
def readback_command(
    file: Path, label: str, says: str | None, on: str | None, mode: str, as_json: bool
) -> None:
    """What a fixture says, held against the plan of a show: the likeliest cause first."""
    if (says is None) == (on is None):
        raise FileError(
            "Give either --says with the number that it shows, or --on with the switches that are "
            "on."
        )
    show = rig_of(file)
    fixture = _called(show, label)
    if mode and (fixture.profile, mode) not in show.modes:
        profile = show.profile_of(fixture)
        names = joined([known.name for known in profile.modes], most=12) if profile else "none"
        raise FileError(f"{fixture.label} has no mode “{mode[:60]}”. Accepted: {names}.")
    try:
        reading = _reading(show, fixture, says, on, mode)
    except FenceError as error:
        raise FileError(f"{fixture.label}: {error}") from None
    causes = causes_of(show, fixture, reading)
    if as_json:
        answer = {
            "planned": {"universe": fixture.universe, "address": fixture.start},
            "says": reading.says,
            "causes": [
                {
                    "kind": str(cause.kind),
                    "address": cause.address,
                    "fixture": cause.fixture.label if cause.fixture else None,
                    "message": cause.message,
                }
                for cause in causes
            ],
        }
        click.echo(json.dumps(answer, ensure_ascii=False))
        return
    say(f"{fixture.label}: planned {fixture.patch[0]}, says {reading.says:03d}")
    for cause in causes:
        say(f"  {cause.kind}: {cause.message}")


def _called(show: Show, label: str) -> Fixture:
    found = [fixture for fixture in show.fixtures if fixture.label == label] or [
        fixture for fixture in show.fixtures if fixture.label.casefold() == label.strip().casefold()
    ]
    if len(found) == 1:
        return found[0]
    if found:
        raise FileError(f"{len(found)} fixtures are called “{label[:60]}”: rename all but one.")
    names = joined([fixture.label for fixture in show.fixtures], most=8, shown=8) or "none"
    raise FileError(f"There is no fixture “{label[:60]}”. The show has: {names}.")


def _reading(show: Show, fixture: Fixture, says: str | None, on: str | None, mode: str) -> Reading:
    if on is not None:
        numbers = [whole_number(piece) for piece in on.split(",") if piece.strip()]
        if None in numbers:
            raise FenceError(f"“{on[:40]}” is not a list of switches. Use numbers such as 2,3,5.")
        return reading_of_switches(
            setter_of(show, fixture), [number for number in numbers if number is not None], mode
        )
    number = whole_number(says or "")
    if number is None or number > HIGHEST_READING:
        raise FenceError(
            f"“{(says or '')[:40]}” is not a number. Use whole numbers from 0 to {HIGHEST_READING}."
        )
    return Reading(number, mode=mode)
