"""A pasted chart from the command line: what each line was taken for, and the modes that come of
it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click

from fence.cli.common import json_option
from fence.core.charts.draft import Draft
from fence.core.charts.reading import read_chart_text
from fence.core.model.profile import Channel
from fence.core.model.text import counted, printable
from fence.disk import read_file
from fence.formats.chart_sheets import read_chart_file
from fence.formats.errors import MOST_BYTES, FileError


@click.command(name="chart")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--way", help="How the text is meant, as it was told; nothing: as it stands.")
@json_option
def chart_command(file: Path, way: str | None, as_json: bool) -> None:
    """Read a chart from FILE, text or a workbook, as the paste page does; say what each line was
    taken for. A fixture type (.gdtf) is printed in the same shape."""
    if file.suffix.casefold() == ".gdtf":
        _fixture_type(file, as_json)
        return
    try:
        read = read_chart_file(file.name, read_file(file, MOST_BYTES))
    except FileError as error:
        raise FileError(f"{file.name}: {error}") from None
    draft = read_chart_text(read.text, way=None if way is None else way.strip())
    if as_json:
        click.echo(json.dumps(draft_data(draft), ensure_ascii=False))
        return
    _tell(draft)
    for note in read.notes:
        click.echo(printable(note))


def _tell(draft: Draft) -> None:
    """A draft in words: its modes, what is doubtful, and how it was read."""
    for mode in draft.modes:
        count = counted(len(mode.channels), "channel")
        click.echo(printable(f"{mode.name}: {count}, {mode.score}"))
        for number, channel in enumerate(mode.channels, 1):
            click.echo(printable(f"  {number:>3} {channel.title}"))
        for doubt in mode.doubts:
            click.echo(printable(f"  ? {doubt}"))
    for line in draft.lines:
        if line.taken not in ("sure", "heading", "blank"):
            click.echo(printable(f"line {line.number}, {line.taken}: {line.text.strip()[:100]}"))
    if draft.read_as:
        click.echo(f"Read as: {draft.read_as}.")
    for other in draft.others:
        counts = ", ".join(str(count) for _, count in other.modes[:8])
        click.echo(f"It can be read as {other.way or 'it stands'}: channels of its modes {counts}.")
    if draft.hardly:
        click.echo("This hardly looks like a chart: nearly nothing in it is surely a channel.")
    if draft.empty:
        click.echo("No channel was found in the text.")


def _fixture_type(file: Path, as_json: bool) -> None:
    """A fixture type as charts are printed: its doubts are what there is to say of each mode."""
    from fence.formats.gdtf.reading import read_gdtf  # its packages are slow to load

    try:
        read = read_gdtf(read_file(file, MOST_BYTES))
    except FileError as error:
        raise FileError(f"{file.name}: {error}") from None
    if as_json:
        modes = [
            {
                "name": mode.name,
                "channels": [channel_data(c) for part in mode.parts for c in part.channels],
                "doubts": list(read.of_modes[mode.name]),
            }
            for mode in read.profile.modes
        ]
        click.echo(json.dumps({"modes": modes, "lines": []}, ensure_ascii=False))
        return
    click.echo(printable(read.profile.title))
    for mode in read.profile.modes:
        click.echo(printable(f"{mode.name}: {counted(mode.footprint, 'channel')}"))
        channels = [channel for part in mode.parts for channel in part.channels]
        for number, channel in enumerate(channels, 1):
            click.echo(printable(f"  {number:>3} {channel.title}"))
        for note in read.of_modes[mode.name]:
            click.echo(printable(f"  ? {note}"))
    for note in read.notes:
        click.echo(printable(note))


def draft_data(draft: Draft) -> dict[str, Any]:
    """A draft as other programs read it."""
    return {
        "modes": [
            {
                "name": mode.name,
                "channels": [channel_data(channel) for channel in mode.channels],
                "doubts": list(mode.doubts),
            }
            for mode in draft.modes
        ],
        "lines": [
            {"number": line.number, "taken": str(line.taken), "text": line.text}
            for line in draft.lines
        ],
    }


def channel_data(channel: Channel) -> dict[str, Any]:
    """A channel as other programs read it."""
    return {
        "function": str(channel.function),
        "name": channel.name,
        "byte": str(channel.byte),
        "cell": channel.cell,
        "default": channel.default,
        "ranges": [
            {"first": r.first, "last": r.last, "meaning": r.meaning} for r in channel.ranges
        ],
    }
