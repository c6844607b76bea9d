"""The words of the trade: no page and no help of a command says what the glossary has another word
for."""

from __future__ import annotations

import html
import re
from pathlib import Path

import click
import pytest
from click.testing import CliRunner
from flask import Flask

from fence.cli import COMMANDS, main
from fence.web.places import PLACES
from tests.conftest import Visitor

GLOSSARY = Path(__file__).parents[2] / "docs" / "glossary.md"
ALLOWED = ("tick box", "out of the box", "--box")
"""Where such a word means something else, or a former name that scripts use."""


def banned() -> list[str]:
    """The last column of the glossary's table."""
    rows = [line for line in GLOSSARY.read_text().splitlines() if line.startswith("| **")]
    cells = [row.rstrip("| ").rsplit("|", 1)[1].strip() for row in rows]
    return [word.strip() for cell in cells if cell != "—" for word in cell.split(",")]


WORDS = re.compile(rf"\b({'|'.join(map(re.escape, banned()))})\b", re.I)


def said(page: str) -> str:
    """What is read on a page: its words and those of its labels, in one line."""
    page = re.sub(r"(?s)<(script|style|template)\b.*?</\1>", " ", page)
    labels = re.findall(r'(?:aria-label|placeholder|title|alt)="([^"]*)"', page)
    told = html.unescape(" ".join([re.sub(r"<[^>]+>", " ", page), *labels]))
    for phrase in ALLOWED:
        told = told.replace(phrase, " ")
    return re.sub(r"\s+", " ", told)


def test_the_glossary_is_read() -> None:
    """Its words are found, and only whole ones."""
    assert len(banned()) > 20
    assert WORDS.search("Two boxes answer")
    assert not WORDS.search("Boxwood 1, a shelfmark")


@pytest.mark.parametrize("show_id", [1, 2])
def test_pages_say_what_the_trade_says(visitor: Visitor, app: Flask, show_id: int) -> None:
    """All pages that can be found, of each demo show."""
    found = {}
    for place in PLACES:
        with app.test_request_context():
            url = app.url_for(place.endpoint, show_id=show_id, **place.args)
        told = said(visitor.get(url, follow_redirects=True).text)
        if words := sorted({match[0] for match in WORDS.finditer(told)}):
            at = told.index(words[0])
            found[url] = (words, told[max(0, at - 60) : at + 60])
    assert not found


def commands(group: click.Group, way: tuple[str, ...] = ()) -> list[tuple[str, ...]]:
    """Every command, with the groups that it stands in."""
    context = click.Context(group)
    found = []
    for name in group.list_commands(context):
        inner = group.get_command(context, name)
        found.append((*way, name))
        if isinstance(inner, click.Group):
            found += commands(inner, (*way, name))
    return found


def test_helps_say_what_the_trade_says() -> None:
    """Every command's help; and former names of commands are not listed, but go on working."""
    all_commands = commands(main)
    assert len(all_commands) > len(COMMANDS)
    for way in all_commands:
        told = said(CliRunner().invoke(main, [*way, "--help"]).output)
        assert not WORDS.search(told), (way, WORDS.findall(told))
    for former in (["boxes"], ["standin", "boxes"]):
        assert CliRunner().invoke(main, [*former, "--help"]).exit_code == 0
