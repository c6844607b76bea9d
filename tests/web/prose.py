"""What is read on a page or on paper, block by block, and what no sentence of Fence should look
like."""

from __future__ import annotations

import html
import re
from io import BytesIO

from pypdf import PdfReader

INLINE = "a|abbr|b|code|em|i|kbd|mark|small|span|strong|sub|sup|time|var"
MANY = (
    r"fixtures|universes|slots|channels|stops|cautions|notes|nodes|ports|lines|moves|devices|"
    r"receivers|transmitters|switches|charts|snapshots|people|marks|positions|modes|steps|findings|"
    r"splitters|terminators|adapters|batteries|chargers|sheets|labels|rows|ranges"
)
LONG = 10
"""Words from which on a paragraph is a sentence, and ends as one; links and heads of sheets are
none."""
SLIPS = {
    "one of many": re.compile(rf"(?<![\d.,:/+-])\b1 (?:{MANY})\b"),
    "many of one": re.compile(
        r"(?<![\d.,:/–-])\b(?:[02-9]|[1-9]\d+) (?:fixture|universe|slot|stop|caution|node|"
        r"move|device|receiver|switch|snapshot|mark|position|finding|row)\b(?! \d|-)(?!s)"
    ),
    "one that stay": re.compile(r"\b[Ss]tays as they are\b|\b[Ss]tay as it is\b"),
    "two that does": re.compile(
        r"\b[A-Z]\w+ \d+ and [A-Z]\w+ \d+ (?:keeps|stays|takes|is|has|goes)\b"
    ),
    "twice": re.compile(r"\b(the|a|of|to|in|is|and|for|at|on|it|channel) \1\b"),
    "left over": re.compile(
        r"\{\{|\}\}|\{%|%\}|\bNone\b(?! yet| of)|\bUndefined\b|<[A-Z]\w+ |\bobject at 0x|&amp;|&lt;"
        r"|\bnan\b"
    ),
    "a stop too many": re.compile(r"[^.]\.\.(?!\.)|,\.|\.,|;\.|::|\?\.|!\."),
}
"""Patterns of what went wrong when a sentence was put together."""


def blocks(page: str) -> list[str]:
    """What is read on a page and what its labels say, a line for each block."""
    page = re.sub(r"(?s)<(script|style|template)\b.*?</\1>", "\n", page)
    labels = re.findall(r'(?:aria-label|placeholder|title|alt|data-bs-title)="([^"]*)"', page)
    page = re.sub(r"\s+", " ", page)
    page = re.sub(rf"</?(?:{INLINE})\b[^>]*>", "", page)
    told = re.sub(r"<[^>]+>", "\n", page).split("\n")
    return [line for one in (*told, *labels) if (line := html.unescape(one).strip())]


def unended(page: str) -> list[str]:
    """Paragraphs that are sentences, by their length, and have no end."""
    page = re.sub(r"(?s)<(script|style|template)\b.*?</\1>", "", page)
    found = []
    for inner in re.findall(r"(?s)<p\b[^>]*>(.*?)</p>", page):
        words = html.unescape(re.sub(r"<[^>]+>", "", inner))
        told = re.sub(r"\s+", " ", words).strip()
        if "<a" in inner or " · " in told:
            continue
        if len(told.split()) >= LONG and told[:1].isupper() and told[-1:] not in ".!?:…":
            found.append(told)
    return found


def lines_of(pdf: bytes) -> list[str]:
    """The lines of a PDF."""
    pages = PdfReader(BytesIO(pdf)).pages
    return [line.strip() for page in pages for line in page.extract_text().splitlines()]


def slips(lines: list[str]) -> dict[str, str]:
    """What should not be there, by its kind: the first of each, with the line that it stands in."""
    found = {}
    for kind, pattern in SLIPS.items():
        for line in lines:
            if match := pattern.search(line):
                found[kind] = f"{match[0]!r} in {line[:160]!r}"
                break
    return found
