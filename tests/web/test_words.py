"""The words of the trade: no page and no help of a command says what the glossary has another word
for."""

from __future__ import annotations

import html
import json
import re
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

import click
import pytest
from click.testing import CliRunner
from flask import Flask
from werkzeug.exceptions import HTTPException
from werkzeug.test import TestResponse

from fence.cli import COMMANDS, main
from fence.web.places import PLACES
from tests.conftest import Visitor
from tests.web.prose import blocks, lines_of, slips, unended

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


MOST_OF_A_KIND = {1: 1, 2: 2, 3: 1}
"""Pages of one kind that are read of each show: others differ in names and numbers only."""


def crawled(visitor: Visitor, app: Flask, show_id: int) -> Iterator[tuple[str, TestResponse]]:
    """Every kind of page, fragment, dialog and file that a show links to, each a few times."""
    waiting, seen, kinds = [f"/shows/{show_id}/address", "/"], set(), Counter[str]()
    with app.test_request_context():
        waiting += [app.url_for(p.endpoint, show_id=show_id, **p.args) for p in PLACES]
        router = app.url_map.bind("localhost")
    while waiting:
        url = waiting.pop(0)
        if url in seen:
            continue
        seen.add(url)
        try:
            kind, args = router.match(urlsplit(url).path, method="GET")
        except HTTPException:
            continue
        if args.get("show_id", show_id) != show_id or kind == "static":
            continue
        kinds[kind] += 1
        if kinds[kind] > MOST_OF_A_KIND[show_id]:
            continue
        answer = visitor.get(url, follow_redirects=True)
        yield url, answer
        if answer.mimetype == "text/html":
            links = re.findall(r'(?:href|src|hx-get)="([^"#]+)', answer.text)
            waiting += [html.unescape(one) for one in links if one.startswith("/")]


@pytest.mark.parametrize("show_id", [1, 2, 3])
def test_pages_say_what_the_trade_says(visitor: Visitor, app: Flask, show_id: int) -> None:
    """All that can be reached of each demo show, on pages and on paper: no word that the glossary
    has another one for, no sentence that was put together wrongly."""
    found, count = {}, 0
    for url, answer in crawled(visitor, app, show_id):
        if answer.mimetype == "text/html":
            told = blocks(answer.text)
        elif answer.mimetype == "application/pdf":
            told = lines_of(answer.data)
        else:
            continue
        count += 1
        if words := sorted({m[0] for line in told for m in WORDS.finditer(allowed(line))}):
            found[url] = {word: next(line for line in told if word in line) for word in words}
        if slipped := slips(told):
            found[url] = {**found.get(url, {}), **slipped}
        if open_ones := unended(answer.text if answer.mimetype == "text/html" else ""):
            found[url] = {**found.get(url, {}), "no full stop": open_ones[0]}
    assert count > 50
    assert not found, json.dumps(found, indent=1, ensure_ascii=False)


def allowed(line: str) -> str:
    """A line without what means something else."""
    for phrase in ALLOWED:
        line = line.replace(phrase, " ")
    return line


@pytest.mark.parametrize(
    ("line", "kind"),
    [
        ("1 fixtures moved", "one of many"),
        ("Of 12 fixture none", "many of one"),
        ("Par 1 stays as they are", "one that stay"),
        ("Par 1 and Par 2 keeps its place", "two that does"),
        ("It takes 6 channels in 6 channel channel", "twice"),
        ("Height: None", "left over"),
        ("That is all..", "a stop too many"),
    ],
)
def test_slips_are_seen(line: str, kind: str) -> None:
    """Each pattern finds what it is for, and leaves right sentences alone."""
    assert kind in slips([line])
    assert not slips(["1 fixture moved, 12 fixtures stay as they are. Par 1 and Par 2 keep it …"])


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
