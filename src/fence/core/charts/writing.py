"""Writing a chart as text that ``reading`` reads back channel for channel."""

from __future__ import annotations

import re

from fence.core.charts.headings import OWN_MODE
from fence.core.charts.reading import read_chart_text
from fence.core.charts.vocabulary import meaning_of
from fence.core.charts.words import any_of
from fence.core.model.profile import Byte, Channel, Function, Profile, Range


def write_chart_text(profile: Profile) -> str:
    """A profile's modes as text that ``read_chart_text`` reads back to the same channels.

    Modes in several parts, and those without channels, are left out: text has no place for them.
    """
    blocks = []
    for mode in profile.modes:
        if len(mode.parts) != 1 or not mode.parts[0].footprint:
            continue
        part = mode.parts[0]
        channels = part.channels or tuple(Channel(Function.OTHER, f"channel {n + 1}") for n in range(part.footprint))
        lines = [f"{OWN_MODE}: {mode.name}"]
        for offset, channel in enumerate(channels, 1):
            lines.append(f"{offset} {_channel_words(channel)}")
            lines += [f"   {_range_words(found)}" for found in channel.ranges]
        blocks.append("\n".join(lines))
    return "\n\n".join(blocks) + "\n"


SIMPLE = re.compile(r"[a-z]+(?:,? [a-z]+)*(?: \d{1,3})?", re.I)
TELLING = re.compile(rf"\b(?:{any_of('channel', 'channels', 'mode')})\d*\b", re.I)
"""Words that a reader of charts takes for more than a word."""
PLAIN = re.compile(r"[a-z][a-z' ]*(?:[/&][a-z' ]+)*")
"""Names and meanings that nothing else looks like."""


def _channel_words(channel: Channel) -> str:
    name = _on_one_line(channel.name)
    words = name or str(channel.function)
    read = meaning_of(name) if name else None
    sure = read is not None and read.function is channel.function and read.sure
    if name and not _reads_back(channel, name):
        words, sure = f'"{name.replace(chr(34), chr(34) * 2)}"', False
    if channel.cell is not None:
        words = f"{words} cell {channel.cell}" if words.startswith('"') else f"cell {channel.cell} {words}"
    if channel.byte is Byte.FINE:
        words += " (fine)"
    if name and not sure:
        words += f" [{channel.function}]"
    if channel.default:
        words += f" default {channel.default}"
    if channel.highlight is not None:
        words += f" highlight {channel.highlight}"
    return words


def _reads_back(channel: Channel, name: str) -> bool:
    """Whether a channel of this name, written plainly, is read as just that."""
    if not PLAIN.fullmatch(name) or name == "cell":
        return False
    modes = read_chart_text(f"{OWN_MODE}: m\n1 {name} [{channel.function}]").modes
    return len(modes) == 1 and modes[0].channels[:1] == (Channel(channel.function, name),)


def _on_one_line(text: str) -> str:
    return " ".join(text.split())


def _range_words(found: Range) -> str:
    meaning = _on_one_line(found.meaning)
    if not SIMPLE.fullmatch(meaning) or TELLING.search(meaning):
        meaning = f'"{meaning.replace(chr(34), chr(34) * 2)}"'
    words = f"{found.first}-{found.last} {meaning}"
    if found.low is not None and found.high is not None:
        words += f" {{{found.low:.9g} to {found.high:.9g}{' ' + found.unit if found.unit else ''}}}"
    return words
