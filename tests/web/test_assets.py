"""Styles, scripts and keys: what ships is used, and what is told is true."""

from __future__ import annotations

import gzip
import json
import re
from html import unescape
from pathlib import Path

from flask import Flask, url_for

from fence.web import assets
from fence.web.keys import KEYS, as_markdown, keys_on, map_of
from tests.browser.screens import SCREENS
from tests.conftest import Visitor

WEB = Path(assets.__file__).parent
STATIC = WEB / "static"


def test_every_style_sheet_is_asked_for() -> None:
    """The order is the cascade: none is forgotten, none is twice."""
    assert sorted(assets.STYLES) == sorted(path.stem for path in (STATIC / "css").glob("*.css"))


def test_what_ships_is_kept_for_good_under_its_version(visitor: Visitor) -> None:
    """It is the same for everybody; under another version there is nothing."""
    path = f"/static/{assets.shipped_version()}/js/main.js"
    assert path in visitor.get("/").text
    answer = visitor.get(path)
    assert answer.headers["Cache-Control"] == "public, max-age=31536000"
    assert "Set-Cookie" not in answer.headers
    assert answer.headers["Vary"] == "Accept-Encoding"
    assert visitor.get("/static/older/js/main.js").status_code == 404


def test_styles_and_scripts_are_packed_on_their_way(visitor: Visitor) -> None:
    """For browsers that take them so, and the same for those that do not; pages never are. Styles
    take 60 kB at most beside Bootstrap's."""
    page = visitor.get("/shows/2/address", headers={"Accept-Encoding": "gzip"})
    assert "Content-Encoding" not in page.headers
    taken = dict.fromkeys(("css", "js"), 0)
    for path in re.findall(r'(?:href|src)="(/static/[^"]+\.(css|js))"', page.text):
        plain = visitor.get(path[0])
        packed = visitor.get(path[0], headers={"Accept-Encoding": "br, gzip"})
        assert "Content-Encoding" not in plain.headers
        small = packed.headers.get("Content-Encoding") != "gzip"
        assert small == (len(plain.data) <= assets.SMALL), path
        assert (packed.data if small else gzip.decompress(packed.data)) == plain.data
        assert int(packed.headers["Content-Length"]) == len(packed.data)
        if "bootstrap.min" not in path[0]:
            taken[path[1]] += len(packed.data)
    assert 0 < taken["css"] < 60_000
    assert 0 < taken["js"] < 150_000


def test_every_module_is_reached_from_the_first() -> None:
    """From main.js on, what is imported is there, and what is there is imported."""
    found: set[str] = set()
    ahead = ["main.js"]
    while ahead:
        name = ahead.pop()
        if name not in found:
            found.add(name)
            ahead += re.findall(
                r'(?:from|import) "\./([\w.]+)"', (STATIC / "js" / name).read_text("utf-8")
            )
    assert found == {path.name for path in (STATIC / "js").glob("*.js")}


def test_keys_name_what_there_is(app: Flask) -> None:
    """Pages, functions of the script and ids that a key names."""
    handler = (STATIC / "js" / "keys.js").read_text("utf-8")
    markup = "".join(path.read_text("utf-8") for path in (WEB / "templates").rglob("*.html"))
    for key in KEYS:
        assert key.on <= set(app.blueprints), key.says
        for does in (one for all_of_them in key.does.values() for one in all_of_them):
            there = f'"{does}": ' in handler if does.startswith("@") else f'"{does}"' in markup
            assert there, f"{does} of {key.says} is nowhere"


def test_the_list_of_a_page_has_every_key_that_acts_there(visitor: Visitor) -> None:
    """Whatever a key could press on a page is pressed by it there; what the list tells is what the
    script is given."""
    pressed = {does for key in KEYS for all_of_them in key.does.values() for does in all_of_them}
    for path, _ in SCREENS:
        page = visitor.get(path).text
        told = re.search(r'id="key-map">(.*)</script>', page)
        assert told, path
        acts = {one for all_of_them in json.loads(told[1]).values() for one in all_of_them}
        ids = set(re.findall(r'<(?:a|button)\b[^>]*\bid="([\w-]+)"', page))
        assert ids & pressed <= acts, path
        listed = [
            unescape(one)
            for one in re.findall(r"<dd>(.*?)</dd>", page.split('id="keys"')[1].split("</dl>")[0])
        ]
        says = [key.says for key in KEYS if key.says in listed]
        assert says == listed, path
        assert acts == {
            one for some in map_of(k for k in KEYS if k.says in listed).values() for one in some
        }, path


def test_the_letters_of_the_steps_are_told(visitor: Visitor) -> None:
    """After g every letter that leads somewhere is in the list, and no other."""
    page = visitor.get("/shows/2/rig").text
    letters = set(re.findall(r'data-go="(\w)"', page))
    told = next(key.says for key in keys_on("rig") if key.says.startswith("go to "))
    assert set(re.findall(r"\b(\w) \w", told.removeprefix("go to "))) == letters


def test_the_readme_has_the_table() -> None:
    """Word for word; tools and people read the same."""
    assert as_markdown() in (WEB.parents[2] / "README.md").read_text("utf-8")


def test_the_worker_keeps_the_pages_of_set_and_no_other(app: Flask, visitor: Visitor) -> None:
    """Its patterns come from the map of addresses; marks, tokens and orders are never kept."""
    told = (
        visitor.get("/sw.js").text.split("\n")[1].removeprefix("const FENCE = ").removesuffix(";")
    )
    patterns = [re.compile(one) for one in json.loads(told)["pages"]]
    with app.test_request_context():
        kept = [
            url_for("set.index", show_id=3),
            url_for("card.index", show_id=3, fixture_id=47),
            url_for("says.index", show_id=3, fixture_id=47),
            url_for("place.index", show_id=3),
        ]
        others = [
            url_for("later.token", show_id=3),
            url_for("order.index", show_id=3),
            url_for("card.mark", show_id=3, fixture_id=47),
            url_for("rig.index", show_id=3),
        ]
    assert all(any(one.search(path) for one in patterns) for path in kept)
    assert not any(one.search(path) for one in patterns for path in others)
