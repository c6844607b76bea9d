"""The channels of a chart as CSV: a row a channel, or a row for each of its ranges."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass, field

from fence.core.charts.vocabulary import meaning_of
from fence.core.model.errors import ChartError
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile, Range
from fence.core.model.text import slug
from fence.formats.csv_cells import MOST_COLUMNS, as_text, from_text
from fence.formats.errors import FileError, decoded

COLUMNS = (
    "maker",
    "model",
    "mode",
    "channel",
    "function",
    "name",
    "cell",
    "byte",
    "default",
    "highlight",
    "from",
    "to",
    "meaning",
    "low",
    "high",
    "unit",
)


MOST_ROWS = 50_000


def write_channels_csv(profile: Profile) -> str:
    """The channels of all modes that have one part and a chart: a row a channel, or a row for each
    of its ranges."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for mode in profile.modes:
        if len(mode.parts) == 1:
            for number, channel in enumerate(mode.parts[0].channels, 1):
                for found in channel.ranges or (None,):
                    named = map(as_text, (profile.maker, profile.model, mode.name))
                    writer.writerow([*named, number, *_cells(channel, found)])
    return out.getvalue()


def _cells(channel: Channel, found: Range | None) -> list[object]:
    held = [
        channel.function,
        as_text(channel.name),
        channel.cell,
        channel.byte,
        channel.default,
        channel.highlight,
    ]
    steps: list[object] = [None] * 6
    if found:
        steps = [
            found.first,
            found.last,
            as_text(found.meaning),
            found.low,
            found.high,
            as_text(found.unit),
        ]
    return ["" if value is None else value for value in (*held, *steps)]


@dataclass(slots=True)
class _Line:
    """A channel as its rows say it, with the line of its first row."""

    line: int
    channel: Channel
    ranges: list[Range] = field(default_factory=list)


def read_channels_csv(data: bytes, *, name: str = "Imported") -> tuple[Profile, ...]:
    """Charts from rows of channels; rows of one channel give its ranges. ``FileError`` names the
    first bad line.

    Required is ``channel`` and one of ``function`` and ``name``; a file without ``model`` is one
    chart of ``name``.
    """
    text = decoded(data)
    delimiter = max(",;\t", key=text.split("\n", 1)[0].count)
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=delimiter))
    except csv.Error as error:
        raise FileError(f"This is not CSV: {error}.") from None
    header = [cell.strip().casefold() for cell in rows[0]]
    if len(header) > MOST_COLUMNS:
        raise FileError(f"The first line names {len(header)} columns. Use up to {MOST_COLUMNS}.", 1)
    if "channel" not in header or not {"function", "name"} & set(header):
        raise FileError(
            "The first line must name the columns “channel” and “function” or “name”.", 1
        )
    if len(rows) > MOST_ROWS:
        raise FileError(f"The file has {len(rows)} rows. Use up to {MOST_ROWS}.")
    found: dict[tuple[str, str], dict[str, dict[int, _Line]]] = {}
    for line, row in enumerate(rows[1:], 2):
        if any(cell.strip() for cell in row):
            _take_row(
                found,
                dict(zip(header, (from_text(cell.strip()) for cell in row), strict=False)),
                line,
                name,
            )
    if not found:
        raise FileError("There is a header but no channel below it. Accepted: at least one row.", 1)
    return tuple(_profile(maker, model, modes) for (maker, model), modes in found.items())


def _take_row(
    found: dict[tuple[str, str], dict[str, dict[int, _Line]]],
    row: dict[str, str],
    line: int,
    name: str,
) -> None:
    key = (row.get("maker", ""), row.get("model", "") or name)
    modes = found.setdefault(key, {})
    channels = modes.setdefault(row.get("mode", ""), {})
    number = _whole(row, "channel", line, 1, 512)
    if number is None:
        raise FileError("A channel number is missing. Use 1 to 512.", line)
    try:
        channel = _channel(row, line)
        held = channels.setdefault(number, _Line(line, channel))
        if held.channel != channel:
            raise FileError(
                f"Channel {number} is said to be something else in line {held.line}.", line
            )
        if row.get("from") or row.get("to"):
            held.ranges.append(_range(row, line))
    except ChartError as error:
        raise FileError(str(error), line) from None


def _channel(row: dict[str, str], line: int) -> Channel:
    words, name = row.get("function", ""), row.get("name", "")
    known = {str(function): function for function in Function}
    function = known.get(words.casefold())
    if function is None:
        meaning = meaning_of(words or name)
        function, name = meaning.function if meaning else Function.OTHER, name or words
    if not words and not name:
        raise FileError("A function or a name is needed for each channel.", line)
    byte = row.get("byte", "").casefold() or str(Byte.WHOLE)
    if byte not in set(Byte):
        raise FileError(f"“{byte[:20]}” is not a byte of a value. Use {', '.join(Byte)}.", line)
    return Channel(
        function,
        name,
        _whole(row, "cell", line, 1, 512),
        Byte(byte),
        _whole(row, "default", line, 0, 255) or 0,
        _whole(row, "highlight", line, 0, 255),
    )


def _range(row: dict[str, str], line: int) -> Range:
    first, last = _whole(row, "from", line, 0, 255), _whole(row, "to", line, 0, 255)
    if first is None or last is None:
        raise FileError("A range needs both “from” and “to”, each 0 to 255.", line)
    low, high = _number(row, "low", line), _number(row, "high", line)
    return Range(first, last, row.get("meaning", ""), low, high, row.get("unit", ""))


def _whole(row: dict[str, str], column: str, line: int, least: int, most: int) -> int | None:
    words = row.get(column, "")
    if not words:
        return None
    if not re.fullmatch(r"\d{1,6}", words) or not least <= int(words) <= most:
        raise FileError(
            f"“{words[:20]}” does not fit the column {column}. Use {least} to {most}.", line
        )
    return int(words)


def _number(row: dict[str, str], column: str, line: int) -> float | None:
    words = row.get(column, "")
    if not words:
        return None
    if not re.fullmatch(r"-?\d{1,7}(\.\d{1,6})?", words):
        raise FileError(
            f"“{words[:20]}” is not a number for {column}. Use such as 2700 or 0.5.", line
        )
    return float(words)


def _profile(maker: str, model: str, modes: dict[str, dict[int, _Line]]) -> Profile:
    made = []
    for name, lines in modes.items():
        footprint = max(lines)
        missing = sorted(set(range(1, footprint + 1)) - lines.keys())
        if missing:
            first = min(entry.line for entry in lines.values())
            raise FileError(
                f"{name or model} has no channel {missing[0]}. Use all from 1 on.", first
            )
        channels = tuple(_whole_channel(lines[number]) for number in range(1, footprint + 1))
        made.append(Mode(name or f"{footprint} channel", (Part(footprint, channels),)))
    stem = slug(f"{maker} {model}", "chart")
    try:
        return Profile(stem, maker, model, tuple(made))
    except ChartError as error:
        raise FileError(str(error)) from None


def _whole_channel(line: _Line) -> Channel:
    held = line.channel
    return Channel(
        held.function,
        held.name,
        held.cell,
        held.byte,
        held.default,
        held.highlight,
        tuple(line.ranges),
    )
