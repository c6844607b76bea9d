"""Functions in one line, as a person says them of a fixture without a chart: ``R G B W``."""

from __future__ import annotations

import re
from functools import cache

from fence.core.charts.draft import Building, Slot, finished
from fence.core.charts.naming import FINE, Namer
from fence.core.charts.vocabulary import CLUSTERS, shipped_wordings, tidy_words
from fence.core.model.errors import ChartError
from fence.core.model.profile import Channel

MOST_CHANNELS = 512
ACCEPTED = "Accepted are a number of channels, or functions in their order: R G B W, dimmer, pan fine."
_MARKS = re.compile(r"\s*[,;/+|]\s*")


def channels_of(words: str) -> tuple[Channel, ...]:
    """The channels that a line names, parted by commas, slashes or plus signs, else by blanks.

    A cluster of colours, such as ``RGBW``, is as many. A fine byte goes with the channel before.
    ``ChartError`` for a word that is not known and for more than 512 channels.
    """
    marked = _MARKS.search(words) is not None
    parts = [part for part in (_MARKS.split(words.strip()) if marked else words.split()) if part]
    if not marked:
        parts = _together(parts)
    namer, mode = Namer(()), Building()
    for part in parts:
        for name in _spelled(part):
            before = mode.slots[len(mode.slots)].channel if mode.slots else None
            named = namer.channel(name, before=before)
            if named.doubt:
                raise ChartError(f"What “{part[:40]}” does is not known. {ACCEPTED}")
            mode.slots[len(mode.slots) + 1] = Slot(named.channel, 1)
            if len(mode.slots) > MOST_CHANNELS:
                raise ChartError(f"More than {MOST_CHANNELS} channels are named. {ACCEPTED}")
    if not mode.slots:
        raise ChartError(ACCEPTED)
    return finished(mode).channels


def _together(parts: list[str]) -> list[str]:
    """Words that are a wording only together, such as ``colour wheel`` and ``warm white``. A bare
    ``fine`` stays alone, since it is a channel of its own."""
    joined: list[str] = []
    for part in parts:
        both = f"{joined[-1]} {part}" if joined else part
        if joined and not FINE.fullmatch(part) and tidy_words(both) in _wordings():
            joined[-1] = both
        else:
            joined.append(part)
    return joined


@cache
def _wordings() -> frozenset[str]:
    return frozenset(word for words in shipped_wordings().values() for word in words)


def _spelled(part: str) -> list[str]:
    """A cluster as its colours, anything else as it is."""
    functions = CLUSTERS.get(re.sub(r"[\s+/]", "", part).casefold())
    return [str(function) for function in functions] if functions else [part]
