"""Lay out the page templates: no line over its width, one element or one condition a line.

    python tools/templates.py            lays out every template anew
    python tools/templates.py --check    says which are not laid out so, and ends with 1

A general formatter of templates adds and drops blanks that are seen on the page. This one keeps
them: it breaks a line where a blank stands already, where none is seen (at the edges of paragraphs,
lists, tables), within a tag, and beside a condition, which then says by its ``-`` that the blank
does not count. Before anything is written the result is read again, and must say the same as what
was there.
"""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

TEMPLATES = Path(__file__).parents[1] / "src" / "fence" / "web" / "templates"
WIDTH = 110
"""Columns that are aimed at; the limit is 120."""
STEP = "  "
BLOCKS = frozenset(
    "html head body main nav aside header footer section article div p ul ol li dl dt dd "
    "table caption thead tbody tr td th form fieldset legend details summary figure figcaption "
    "h1 h2 h3 h4 hr br select option optgroup datalist dialog script style title meta link "
    "noscript "
    "svg g path rect circle line polygon text tspan defs pattern template".split()
)
"""Elements at whose edges a blank is not seen."""
VOID = frozenset("area base br col embed hr img input link meta source track wbr".split())
RAW = frozenset("script style pre textarea".split())
"""Elements whose content is left as it is."""
SPACED = frozenset("class style d points content hx-headers".split())
"""Attributes in which a blank and a line break mean the same."""
OPENING = frozenset("if for block macro call filter with autoescape".split())
BETWEEN = frozenset("else elif".split())

# ---- reading


@dataclass
class Node:
    """A piece of a template. ``before`` says whether a blank stands before it."""

    kind: str
    """``word``, ``expr``, ``stmt``, ``comment``, ``tag`` (one that is not matched), ``element`` or
    ``block``."""
    text: str = ""
    before: bool = False
    name: str = ""
    items: list[Item] = field(default_factory=list)
    children: list[Node] = field(default_factory=list)
    inner_end: bool = False
    """Whether a blank stands before the closing tag, or before the end of a branch."""
    raw: str = ""
    closed: str = ""
    branches: list[Branch] = field(default_factory=list)

    @property
    def is_block_level(self) -> bool:
        """Whether blanks at its outer edges are not seen."""
        return (self.kind in ("element", "tag") and self.name in BLOCKS) or self.kind == "comment"

    @property
    def is_jinja(self) -> bool:
        """Whether a blank at its edge can be told not to count."""
        return self.kind in ("block", "stmt")


@dataclass
class Branch:
    """A part of a condition or loop: its tag, and what stands in it."""

    tag: str
    children: list[Node]
    end: bool = False
    """Whether a blank stands after the last of it."""
    before: bool = False
    """Whether a blank stands before the tag: at the end of the branch before it."""


@dataclass
class Item:
    """What stands in an opening tag: an attribute, an expression or a condition."""

    text: str
    joined: bool = False
    """Whether it continues the item before it without a blank that could stand there."""


class UnreadableError(ValueError):
    """A template that this cannot read."""


def end_of_jinja(source: str, start: int) -> int:
    """Where a tag of the template language ends, strings and brackets in it considered."""
    if source.startswith("{#", start):
        return source.index("#}", start) + 2
    closing = "%}" if source.startswith("{%", start) else "}}"
    place, depth = start + 2, 0
    while place < len(source):
        char = source[place]
        if char in "\"'":
            place = source.index(char, place + 1) + 1
            continue
        if depth == 0 and source.startswith(closing, place):
            return place + 2
        depth += (char in "([{") - (char in ")]}")
        place += 1
    raise UnreadableError(source[start : start + 60])


def tokens(source: str) -> Iterator[tuple[str, str, bool]]:
    """Kind, text and whether a blank stands before it, for all of a template."""
    place, blank, raw = 0, False, ""
    while place < len(source):
        if raw and not source.startswith(f"</{raw}", place):
            end = source.index(f"</{raw}", place)
            yield "raw", source[place:end], False
            place, blank, raw = end, False, ""
            continue
        raw = ""
        char = source[place]
        if char.isspace() and char != "\u00a0":
            blank, place = True, place + 1
            continue
        if source[place : place + 2] in ("{{", "{%", "{#"):
            end = end_of_jinja(source, place)
            text = source[place:end]
            if text[2] == "-":
                blank = False
            bare = re.sub(r"^(\{.)-?\s*|\s*-?(.\})$", r"\1 \2", text, flags=re.S)
            yield {"{": "expr", "%": "jinja", "#": "comment"}[text[1]], tidy(bare), blank
            place, blank = end, False
            if text[-3] == "-":
                while place < len(source) and source[place].isspace():
                    place += 1
            continue
        if re.match(r"<(?:/?[a-zA-Z]|!)", source[place:]):
            end = end_of_tag(source, place)
            text = source[place:end]
            yield "html", text, blank
            found = re.match(r"<([a-zA-Z0-9-]+)", text)
            raw = found[1] if found and found[1] in RAW and not text.endswith("/>") else ""
            place, blank = end, False
            continue
        end = place + 1
        while end < len(source) and not (source[end].isspace() and source[end] != "\u00a0"):
            if source[end : end + 2] in ("{{", "{%", "{#") or re.match(
                r"<(?:/?[a-zA-Z]|!)", source[end : end + 3]
            ):
                break
            end += 1
        yield "word", source[place:end], blank
        place, blank = end, False
    yield "end", "", blank


def end_of_tag(source: str, start: int) -> int:
    """Where a tag of the page ends."""
    if source.startswith("<!--", start):
        return source.index("-->", start) + 3
    place, quote = start + 1, ""
    while place < len(source):
        if source[place : place + 2] in ("{{", "{%", "{#"):
            place = end_of_jinja(source, place)
            continue
        char = source[place]
        if quote:
            quote = "" if char == quote else quote
        elif char in "\"'":
            quote = char
        elif char == ">":
            return place + 1
        place += 1
    raise UnreadableError(source[start : start + 60])


def tidy(jinja: str) -> str:
    """A tag of the template language with one blank where it has any outside of strings."""
    if jinja.startswith("{#"):
        return jinja
    parts = re.split(r"(\"[^\"]*\"|'[^']*')", jinja)
    parts[::2] = [re.sub(r"\s+", " ", part) for part in parts[::2]]
    text = "".join(parts)
    return (
        re.sub(r"(?<=[(\[]) | (?=[)\]])", "", text)
        if not re.search(r"[\"'].*(?:\( | \))", text)
        else text
    )


def items_of(tag: str) -> tuple[str, list[Item], str]:
    """Name, items and end of an opening tag."""
    found = re.match(r"<([a-zA-Z0-9-]+|!doctype)", tag, flags=re.I)
    if not found:
        raise UnreadableError(tag)
    end = "/>" if tag.endswith("/>") else ">"
    body, place, items = tag[found.end() : len(tag) - len(end)], 0, list[Item]()
    blank = True
    while place < len(body):
        if body[place].isspace():
            blank, place = True, place + 1
            continue
        start = place
        if body.startswith("{%", place):
            place = end_of_jinja(body, place)
            items.append(Item(jinja_bare(body[start:place])))
            blank = True  # whatever stands beside a condition in a tag may stand apart from it
            continue
        while place < len(body) and not body[place].isspace() and not body.startswith("{%", place):
            if body.startswith("{{", place):
                place = end_of_jinja(body, place)
            elif body[place] in "\"'":
                place = end_of_value(body, place)
            else:
                place += 1
        items.append(Item(plain(body[start:place]), joined=not blank and bool(items)))
        blank = body[place - 1 : place] in "\"'}"
    return found[1], items, end


def plain(item: str) -> str:
    """An attribute with its tags of the template language on one line, and its blanks where they do
    not matter."""
    if item.partition("=")[0] in SPACED:
        item = re.sub(r"\s+", " ", item)
    out, place = "", 0
    while place < len(item):
        end = place + 1
        if item[place : place + 2] in ("{{", "{%", "{#"):
            end = end_of_jinja(item, place)
            out += jinja_bare(item[place:end])
        else:
            out += item[place]
        place = end
    return out


def jinja_bare(text: str) -> str:
    """A tag of the template language without its ``-``."""
    return tidy(re.sub(r"^(\{.)-?\s*|\s*-?(.\})$", r"\1 \2", text, flags=re.S))


def end_of_value(body: str, start: int) -> int:
    """Where a value in quotes ends."""
    place, quote = start + 1, body[start]
    while place < len(body):
        if body[place : place + 2] in ("{{", "{%", "{#"):
            place = end_of_jinja(body, place)
        elif body[place] == quote:
            return place + 1
        else:
            place += 1
    raise UnreadableError(body[start : start + 60])


def parse(source: str) -> tuple[list[Node], bool]:
    """The template as a tree; and whether a blank stands at its end."""
    stream = list(tokens(source))
    nodes, place, end = _branch(stream, 0)
    if stream[place][0] != "end":
        raise UnreadableError(stream[place][1])
    return nodes, end


def _branch(stream: Sequence[tuple[str, str, bool]], place: int) -> tuple[list[Node], int, bool]:
    flat: list[Node] = []
    while True:
        kind, text, before = stream[place]
        if kind == "end":
            return matched(flat), place, before
        if kind == "jinja":
            name = text.split()[1]
            if name.startswith("end") or name in BETWEEN:
                return matched(flat), place, before
            if name in OPENING:
                node, place = _block(stream, place)
                flat.append(node)
                continue
            flat.append(Node("stmt", text, before))
        elif kind == "html":
            flat.append(_tag(text, before))
        else:
            flat.append(Node(kind, text, before))
        place += 1


def _tag(text: str, before: bool) -> Node:
    if text.startswith(("<!--", "<!")):
        return Node("comment", text, before)
    if text.startswith("</"):
        return Node("tag", text, before, text[2:-1].strip())
    name, items, end = items_of(text)
    return Node("tag", end, before, name, items)


def _block(stream: Sequence[tuple[str, str, bool]], place: int) -> tuple[Node, int]:
    _, text, before = stream[place]
    made = Node("block", text, before)
    while True:
        tag, stands = stream[place][1], stream[place][2]
        children, place, end = _branch(stream, place + 1)
        made.branches.append(Branch(tag, children, end, stands))
        kind, text, _ = stream[place]
        if kind == "end":
            raise UnreadableError(f"{tag} is not closed")
        if text.split()[1].startswith("end"):
            made.closed = text
            return made, place + 1


def matched(flat: list[Node]) -> list[Node]:
    """Opening and closing tags of one list put together to elements; those that do not match stay
    as they are."""
    out: list[Node] = []
    for node in flat:
        if node.kind == "tag" and node.text.startswith("</"):
            opened = next((p for p in reversed(range(len(out))) if _opens(out[p])), None)
            if opened is not None and out[opened].name == node.name:
                element = out[opened]
                element.kind, element.children, element.inner_end = (
                    "element",
                    out[opened + 1 :],
                    node.before,
                )
                if element.children and element.children[0].kind == "raw":
                    element.raw, element.children = element.children[0].text, []
                del out[opened + 1 :]
                continue
        out.append(node)
    return out


def _opens(node: Node) -> bool:
    return node.kind == "tag" and node.text == ">" and node.name not in VOID


# ---- laying out: documents are texts and lists of these, printed as wide as there is room


@dataclass(frozen=True)
class Gap:
    """A place where the line may be broken: what stands there if not, and whether it has to be."""

    flat: str = ""
    hard: bool = False


@dataclass(frozen=True)
class Either:
    """One text where the group around it is broken, another where it is not."""

    broken: str
    flat: str


@dataclass(frozen=True)
class Group:
    """Broken at all of its gaps or at none."""

    parts: tuple[Doc, ...]
    force: bool = False


@dataclass(frozen=True)
class Indent:
    """One step further in."""

    parts: tuple[Doc, ...]


@dataclass(frozen=True)
class Fill:
    """Pieces and gaps by turns; a gap is broken where the piece after it has no room."""

    parts: tuple[Doc, ...]


@dataclass(frozen=True)
class Glued:
    """Pieces with nothing between them."""

    parts: tuple[Doc, ...]


@dataclass(frozen=True)
class Tagged:
    """A tag of the template language, or all from the first to the last one of a condition;
    ``left`` and ``right`` where a blank does not count when the group around it is broken."""

    left: bool
    inner: Doc
    right: bool

    @property
    def parts(self) -> tuple[Doc, ...]:
        """It, with its ends."""
        return (
            "{%",
            *([Either("-", "")] if self.left else []),
            self.inner,
            *([Either("-", "")] if self.right else []),
            "%}",
        )


Doc = str | Gap | Either | Group | Indent | Fill | Glued | Tagged


def forced(doc: Doc) -> bool:
    """Whether it cannot stand on one line."""
    match doc:
        case Gap():
            return doc.hard
        case Group():
            return doc.force or any(map(forced, doc.parts))
        case Indent() | Fill() | Glued() | Tagged():
            return any(map(forced, doc.parts))
        case str():
            return "\n" in doc
    return False


def flat(doc: Doc) -> str:
    """It on one line."""
    match doc:
        case str():
            return doc
        case Gap():
            return doc.flat
        case Either():
            return doc.flat
    return "".join(map(flat, doc.parts))


def lead(parts: Sequence[Doc], broken: bool) -> tuple[int, bool]:
    """How long it is up to the first place where the line can be broken, and whether there is
    one."""
    total = 0
    for part in parts:
        match part:
            case str():
                total += len(part.partition("\n")[0])
                found = 0, "\n" in part
            case Either():
                found = len(part.broken if broken else part.flat), False
            case Gap():
                found = (0, True) if broken or part.hard else (len(part.flat), False)
            case Group() | Fill():
                found = lead(part.parts, True)
            case _:
                found = lead(part.parts, broken)
        total += found[0]
        if found[1]:
            return total, True
    return total, False


class Printer:
    """Puts documents on lines."""

    def __init__(self) -> None:
        self.lines = [""]

    def put(self, doc: Doc, depth: int, broken: bool, after: int = 0) -> None:
        """Print; ``after`` is how much has to stand on the same line behind it."""
        match doc:
            case str():
                first, *rest = doc.split("\n")
                self.lines[-1] += first
                self.lines += rest
            case Gap():
                self.gap(doc, depth, broken or doc.hard)
            case Either():
                self.lines[-1] += doc.broken if broken else doc.flat
            case Group():
                whole = not forced(doc) and self.fits(flat(doc), after)
                self.all(doc.parts, depth, not whole, after)
            case Indent():
                self.all(doc.parts, depth + 1, broken, after)
            case Glued() | Tagged():
                self.all(doc.parts, depth, broken, after)
            case Fill():
                self.fill(doc.parts, depth, after)

    def all(self, parts: Sequence[Doc], depth: int, broken: bool, after: int) -> None:
        for place, part in enumerate(parts):
            self.put(part, depth, broken, self.behind(parts[place + 1 :], broken, after))

    def behind(self, parts: Sequence[Doc], broken: bool, after: int) -> int:
        """How much follows up to the next place where the line can be broken."""
        total, ended = lead(parts, broken)
        return total if ended else total + after

    def fill(self, parts: Sequence[Doc], depth: int, after: int) -> None:
        for place, part in enumerate(parts):
            if isinstance(part, Gap):
                behind = parts[place + 1 : place + 3]
                room = flat(behind[0])
                tail = after if place + 2 >= len(parts) else 0
                alone = forced(behind[0]) or not self.fits(part.flat + room, tail)
                self.gap(part, depth, part.hard or alone)
            else:
                self.put(part, depth, False, after if place + 1 >= len(parts) else 0)

    def gap(self, gap: Gap, depth: int, broken: bool) -> None:
        if broken:
            self.lines[-1] = self.lines[-1].rstrip(" ")
            self.lines.append(STEP * depth)
        else:
            self.lines[-1] += gap.flat

    def fits(self, text: str, after: int) -> bool:
        return "\n" not in text and len(self.lines[-1]) + len(text) + after <= WIDTH


FREE, INLINE, JINJA = "free", "inline", "jinja"
"""What an edge is: one at which blanks are not seen, one at which they are, one that can say that
they do not count."""


WHOLE_CALLS: set[str] = set()
"""Macros that make whole elements at whose edges blanks are not seen."""


def learn_macros(nodes: Sequence[Node]) -> None:
    """Note the macros of a template that make whole elements."""
    for node in nodes:
        for branch in node.branches:
            name = re.match(r"\{% macro (\w+)", branch.tag)
            if (
                name
                and branch.children
                and {edge(branch.children[0]), edge(branch.children[-1])} == {FREE}
            ):
                WHOLE_CALLS.add(name[1])
            learn_macros(branch.children)
        learn_macros(node.children)


@dataclass
class Content:
    """What stands between two edges, with the gaps at them; and whether the tags at the edges say
    that the blank of a broken line does not count."""

    docs: list[Doc]
    first: Gap | None
    last: Gap | None
    mark_start: bool
    mark_end: bool


def edge(node: Node) -> str:
    """What the outer edges of a node are."""
    if node.kind in ("block", "stmt"):
        return JINJA
    hidden = node.name == "input" and any(item.text == 'type="hidden"' for item in node.items)
    call = re.fullmatch(r"\{\{ (\w+)\(.*\) \}\}", node.text) if node.kind == "expr" else None
    whole = call is not None and call[1] in WHOLE_CALLS
    return FREE if node.is_block_level or hidden or whole else INLINE


def inner_edge(node: Node) -> str:
    """What the inner edges of an element are: those of a button, too, show no blanks, unless a sign
    follows inside."""
    classes = next((item.text for item in node.items if item.text.startswith("class=")), "")
    if "dropdown-toggle" in classes:
        return INLINE
    is_button = node.name == "button" or re.search(r"[\"' ]btn[\"' ]", classes)
    return FREE if node.is_block_level or is_button else INLINE


def in_rows(node: Node) -> bool:
    """Whether its children are laid out by a grid, or one beside the other, where blanks between
    them are not seen."""
    classes = next((item.text for item in node.items if item.text.startswith("class=")), "")
    return bool(ROWS & set(re.findall(r"[\w-]+", classes)))


ROWS: frozenset[str] = frozenset()


def gap_of(one: str, other: str, blank: bool) -> tuple[Gap | None, bool]:
    """The gap between two edges, None where there is none; and whether it has to be said that it
    does not count."""
    if FREE in (one, other) or blank:
        return Gap(" " if blank else ""), False
    if JINJA in (one, other):
        return Gap(""), True
    return None, False


def content(
    nodes: Sequence[Node], start: str, end: str, blank_end: bool, *, rows: bool = False
) -> Content:
    """What stands between two edges."""
    docs: list[Doc] = []
    run: list[Doc] = []
    left, mark_start = start, False
    first: Gap | None = None
    marked = False
    for place, node in enumerate(nodes):
        right = edge(node)
        gap, mark = gap_of(FREE if rows else left, right, node.before)
        if rows and JINJA in (left, right):
            gap, mark = Gap(" " if node.before else ""), False
        marked = mark and right == JINJA
        mark_left = mark and not marked
        if place == 0:
            first, mark_start = gap, mark_left
        else:
            if mark_left:
                docs_end = _mark_last(docs, run)
                assert docs_end
            own_line = JINJA in (left, right) or FREE in (left, right) or rows
            if gap is None:
                _glue(run, shown(node, marked))
                left = right
                continue
            if own_line:
                _flush(docs, run)
                docs.append(gap)
            else:
                run.append(gap)
        run.append(shown(node, marked))
        left = right
    _flush(docs, run)
    gap, mark = gap_of(FREE if rows else left, end, blank_end)
    if not nodes:
        gap, mark = (Gap(" ") if blank_end else None), False
    mark_end = mark and end == JINJA
    if mark and not mark_end:
        _mark_last(docs, run)
    return Content(docs, first, gap if nodes else None, mark_start, mark_end)


def _flush(docs: list[Doc], run: list[Doc]) -> None:
    if len(run) == 1:
        docs.append(run[0])
    elif run:
        docs.append(Fill(tuple(run)))
    run.clear()


def _glue(run: list[Doc], doc: Doc) -> None:
    last = run.pop() if run else ""
    if isinstance(last, str) and isinstance(doc, str):
        run.append(last + doc)
    elif isinstance(last, Glued):
        run.append(Glued((*last.parts, doc)))
    else:
        run.append(Glued((last, doc)))


def _mark_last(docs: list[Doc], run: list[Doc]) -> bool:
    """Let the tag that was put last say that the blank after it does not count."""
    held = run if run else docs
    if not held or not isinstance(held[-1], Tagged):
        return False
    held[-1] = Tagged(held[-1].left, held[-1].inner, True)
    return True


def shown(node: Node, marked: bool) -> Doc:
    """A node as a document; ``marked`` where the blank before it does not count when the line is
    broken there."""
    if node.kind == "expr":
        return expression(node.text)
    if node.kind == "stmt":
        return Tagged(marked, expression(node.text[2:-2]), False)
    if node.kind == "block":
        return Tagged(marked, block(node), False)
    if node.kind == "element":
        return element(node)
    if node.kind == "tag":
        return node.text if node.text.startswith("</") else opening(node, node.text)
    return node.text


def opening(node: Node, end: str = ">") -> Doc:
    """An opening tag: its items on lines of their own where it has no room."""
    if not node.items:
        return f"<{node.name}{end}" if end == ">" else f"<{node.name} {end}"
    parts: list[Doc] = []
    for item in node.items:
        parts += [*([] if item.joined else [Gap(" ")]), attribute(item.text)]
    return Group((f"<{node.name}", Indent(tuple(parts)), Gap(" " if end == "/>" else ""), end))


def attribute(text: str) -> Doc:
    """An attribute: one whose value is long is broken where that changes nothing."""
    name = text.partition("=")[0]
    if text.startswith("{"):
        return expression(text)
    if len(text) < WIDTH - 30:
        return text
    pieces: list[Doc] = []
    place = 0
    while place < len(text):
        end = place + 1
        if text[place : place + 2] in ("{{", "{%", "{#"):
            end = end_of_jinja(text, place)
            pieces.append(expression(text[place:end]))
        else:
            while end < len(text) and text[end : end + 2] not in ("{{", "{%", "{#"):
                end += 1
            words = re.split(r"\s+", text[place:end]) if name in SPACED else [text[place:end]]
            for number, word in enumerate(words):
                pieces += [*([Gap(" ")] if number else []), word]
        place = end
    return _filled(pieces)


def _filled(pieces: Sequence[Doc]) -> Doc:
    """Pieces put together: those without a gap between them stay together."""
    out: list[Doc] = []
    for piece in pieces:
        if isinstance(piece, Gap) or not out or isinstance(out[-1], Gap):
            out.append(piece)
        else:
            _glue(out, piece)
    return Indent((Fill(tuple(out)),))


def expression(text: str) -> Doc:
    """A tag of the template language: a long one may be broken before ``if``, ``else``, ``or``, and
    after commas."""
    if len(text) < 60:
        return text
    parts, depth = [""], 0
    place = 0
    while place < len(text):
        char = text[place]
        if char in "\"'":
            end = text.index(char, place + 1) + 1
            parts[-1] += text[place:end]
            place = end
            continue
        depth += (char in "([{") - (char in ")]}")
        if char == " " and (
            text[place - 1] == ","
            or re.match(r" (?:if|else|or|and|~|==) ", text[place:])
            or (depth == 1 and text[place:] in (" }}", " %}"))
        ):
            parts.append("")
        else:
            parts[-1] += char
        place += 1
    docs: list[Doc] = []
    for number, part in enumerate(parts):
        docs += [*([Gap(" ")] if number else []), part]
    return Indent((Fill(tuple(docs)),)) if len(parts) > 1 else text


def element(node: Node) -> Doc:
    """An element with what stands in it."""
    if node.name in RAW:
        return Glued((opening(node), node.raw, f"</{node.name}>"))
    inner = inner_edge(node)
    held = content(node.children, inner, inner, node.inner_end, rows=in_rows(node))
    if not node.children:
        return Glued(
            (opening(node), " " if node.inner_end and inner == INLINE else "", f"</{node.name}>")
        )
    inside: list[Doc] = [*([held.first] if held.first else []), *held.docs]
    parts: list[Doc] = [
        opening(node),
        Indent(tuple(inside)),
        *([held.last] if held.last else []),
        f"</{node.name}>",
    ]
    return Group(tuple(parts), crowded(node.children, node.name in BLOCKS))


def block(node: Node) -> Doc:
    """A condition, loop or macro: what stands between the first ``{%`` and the last ``%}``."""
    parts: list[Doc] = []
    every: list[Node] = []
    marked = False
    for number, branch in enumerate(node.branches):
        held = content(branch.children, JINJA, JINJA, _end_of(node, number))
        tag = branch.tag[2:-2]
        if number:
            parts += ["{%", Either("-", "") if marked else ""]
        parts += [expression(tag), Either("-", "") if held.mark_start else "", "%}"]
        inside = [*([held.first] if held.first else []), *held.docs]
        parts.append(Indent(tuple(inside)))
        last = held.last
        marked = held.mark_end
        if not branch.children:
            stands = _end_of(node, number)
            last, marked = Gap(" " if stands else ""), not stands
        if last:
            parts.append(last)
        every += branch.children
    parts += ["{%", Either("-", "") if marked else "", node.closed[2:-2]]
    outer = node.branches[0].tag.split()[1] in ("block", "macro")
    return Group(tuple(parts), (outer and _is_large(every)) or crowded(every, True))


def _is_large(nodes: Sequence[Node]) -> bool:
    return any(n.kind in ("block", "element", "stmt") for n in nodes)


def _end_of(node: Node, number: int) -> bool:
    return node.branches[number].end


def crowded(nodes: Sequence[Node], block_level: bool) -> bool:
    """Whether they are too much for one line, however short they are."""
    blocks = [n for n in nodes if n.kind == "block"]
    elements = [
        n
        for n in nodes
        if n.kind in ("element", "tag") and n.name in BLOCKS and n.name not in ("br",)
    ]
    inner = any(
        any(
            c.kind in ("element", "block") and (c.kind == "block" or c.name in BLOCKS)
            for c in n.children
        )
        for n in nodes
        if n.kind == "element"
    )
    nested = any(
        c.kind == "block" for b in blocks for branch in b.branches for c in branch.children
    )
    return (
        len(blocks) + len(elements) > 1
        or nested
        or (bool(elements) and inner)
        or (any(n.kind == "stmt" for n in nodes) and len(nodes) > 1)
    )


def lay_out(source: str) -> str:
    """A template laid out; ``UnreadableError`` where it is none, or would say anything else than
    before."""
    nodes, end = parse(source)
    held = content(nodes, FREE, FREE, end)
    printer = Printer()
    printer.all(held.docs, 0, True, 0)
    made = "\n".join(line.rstrip(" ") for line in printer.lines).strip("\n") + "\n"
    again, _ = parse(made)
    before, after = said(nodes), said(again)
    for one, other in zip(before, after, strict=False):
        if one != other:
            raise UnreadableError(f"it would say {other!r} instead of {one!r}")
    if len(before) != len(after):
        raise UnreadableError("something would be lost")
    return made


def said(nodes: Sequence[Node], *, rows: bool = False) -> list[tuple[object, ...]]:
    """What a template says, apart from blanks that are not seen."""
    out: list[tuple[object, ...]] = []
    left = FREE
    for node in nodes:
        right = edge(node)
        blank = node.before and FREE not in (left, right) and not rows
        items = tuple(re.sub(r"\s+", " ", tidy_in(item.text)) for item in node.items)
        out.append(
            (
                node.kind,
                re.sub(r"\s+", "", node.text) if node.kind in ("expr", "stmt") else node.text,
                blank,
                node.name,
                items,
                node.raw,
            )
        )
        if node.kind == "element":
            inner = inner_edge(node)
            out += _said_inside(node.children, inner, node.inner_end, rows=in_rows(node))
        for branch in node.branches:
            out.append((re.sub(r"\s+", "", branch.tag),))
            out += _said_inside(branch.children, JINJA, branch.end)
        out.append((node.closed,))
        left = right
    return out


def tidy_in(text: str) -> str:
    """An item with its tags of the template language as they are compared."""
    return re.sub(r"\s+(?=[^{}]*[%}]\})|(?<=[{%]) ", "", text)


def _said_inside(
    nodes: Sequence[Node], inner: str, end: bool, *, rows: bool = False
) -> list[tuple[object, ...]]:
    if not nodes:
        return [("end", end and inner != FREE)]
    first_blank = nodes[0].before and inner != FREE and edge(nodes[0]) != FREE and not rows
    last_blank = end and inner != FREE and edge(nodes[-1]) != FREE and not rows
    found = said(nodes, rows=rows)
    return [("start", first_blank), *found, ("end", last_blank)]


def main() -> int:
    """Lay out all templates, or check that they are."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--check", action="store_true")
    asked.add_argument("files", nargs="*", type=Path)
    options = asked.parse_args()
    wrong = 0
    for _ in range(3):  # a macro may begin with another
        for path in sorted(TEMPLATES.rglob("*.html")):
            learn_macros(parse(path.read_text(encoding="utf-8"))[0])
    for path in options.files or sorted(TEMPLATES.rglob("*.html")):
        source = path.read_text(encoding="utf-8")
        try:
            made = lay_out(source)
        except (UnreadableError, ValueError) as problem:
            print(f"{path}: {problem}")
            wrong += 1
            continue
        if made == source:
            continue
        if options.check:
            print(f"{path} is not laid out as tools/templates.py does it")
            wrong += 1
        else:
            path.write_text(made, encoding="utf-8")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
