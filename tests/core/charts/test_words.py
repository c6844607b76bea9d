"""The words of the languages: each means one thing, is found, and stands nowhere else."""

from __future__ import annotations

import ast
import re
import unicodedata
from dataclasses import fields
from pathlib import Path

import pytest

import fence.core.charts
from fence.core.charts.vocabulary import CLUSTERS, meaning_of, tidy_words
from fence.core.charts.words import LANGUAGES, any_of, every, functions, parted
from fence.core.charts.words.language import Language

CHARTS = Path(fence.core.charts.__file__).parent
ELSEWHERE = [path for path in CHARTS.rglob("*.py") if "words" not in path.relative_to(CHARTS).parts]
WORD = re.compile(r"(?<![\\<A-Za-z_{])[a-zß-ÿ]{3,}")
CLASS = re.compile(r"\[[^\]]*\]")
NAMES = {"dmx"}
"""The name of the standard is the same in every language."""


def test_every_wording_means_one_thing() -> None:
    """No wording names two functions, in whatever languages, and all are found as they stand."""
    named: dict[str, set[str]] = {}
    for language in LANGUAGES:
        for function, words in language.functions.items():
            for phrase in parted(words):
                named.setdefault(tidy_words(phrase), set()).add(function)
    assert {phrase: held for phrase, held in named.items() if len(held) > 1} == {}
    for phrase, function in functions().items():
        found = meaning_of(phrase.upper())
        assert found is not None
        assert (found.function, found.sure) == (function, True), phrase
    assert all(len(held) >= 3 for held in CLUSTERS.values())


KINDS = [field.name for field in fields(Language) if field.name not in ("functions", "heads")]


@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_of_word_is_found(kind: str) -> None:
    """With accents or without, in capitals, and the whole of it where one word begins another."""
    pattern = re.compile(any_of(kind), re.I)
    assert every(kind)
    for word in every(kind):
        assert pattern.fullmatch(word.upper()), word
        decomposed = unicodedata.normalize("NFD", word.replace("ł", "l").replace("ß", "ss"))
        assert pattern.fullmatch("".join(c for c in decomposed if not unicodedata.combining(c)))
        match = pattern.match(word + " ")
        assert match
        assert len(match[0]) >= len(word)


def patterns_in(path: Path) -> list[str]:
    """All text that a module hands to a regular expression, or keeps in a collection by itself."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    calls = [
        node
        for node in ast.walk(tree)
        if isinstance(node, ast.Call)
        and isinstance(node.func, ast.Attribute)
        and isinstance(node.func.value, ast.Name)
        and node.func.value.id == "re"
    ]
    return [text for call in calls for argument in call.args for text in written_in(argument)]


def written_in(node: ast.AST) -> list[str]:
    """The text that stands in an expression itself, and not in what it calls."""
    if isinstance(node, ast.Call):
        return []
    if isinstance(node, ast.Subscript):
        return written_in(node.value)
    if isinstance(node, ast.Constant):
        return [node.value] if isinstance(node.value, str) else []
    return [text for part in ast.iter_child_nodes(node) for text in written_in(part)]


@pytest.mark.parametrize("path", ELSEWHERE, ids=lambda path: str(path.relative_to(CHARTS)))
def test_no_other_module_holds_a_word(path: Path) -> None:
    """What a manual says is known by the files of the languages only; a pattern elsewhere has
    signs, numbers and single letters."""
    found = {word for text in patterns_in(path) for word in WORD.findall(CLASS.sub("", text))}
    assert found - NAMES == set()
