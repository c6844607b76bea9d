"""Charts in and out, words of manuals, copies and repeated cells, on the pages."""

from __future__ import annotations

import io
import json

from flask import Flask

from tests.conftest import Visitor


def upload(visitor: Visitor, name: str, data: bytes) -> object:
    """Send a file of charts."""
    return visitor.post("/shows/1/charts/files", {"file": (io.BytesIO(data), name)})


def test_a_chart_travels_as_a_file(visitor: Visitor, app: Flask) -> None:
    """A chart goes out as JSON, is changed, is seen, and comes in as the next revision; the same
    again is no change."""
    shelf = app.extensions["fence_pages"].library
    held = json.loads(visitor.get("/shows/1/charts/files/tansy-pond-wash.json").text)
    held["charts"][0]["kind"] = "Wash of the pond"
    preview = upload(visitor, "wash.json", json.dumps(held).encode()).location
    assert "revision 2 of Tansy Pond Wash" in visitor.get(preview).text
    assert shelf.newest("tansy-pond-wash").kind != "Wash of the pond"
    visitor.post(preview, {"chart": "tansy-pond-wash"})
    assert shelf.newest("tansy-pond-wash").kind == "Wash of the pond"
    again = upload(
        visitor, "wash.json", visitor.get("/shows/1/charts/files/library.json").data
    ).location
    assert "as the library has it" in visitor.get(again).text


def test_channels_travel_as_a_table(visitor: Visitor, app: Flask) -> None:
    """A CSV of channels becomes a chart; one that is no chart is told and nothing is kept."""
    preview = upload(visitor, "Bog.csv", b"channel,name\n1,Dimmer\n2,Red\n").location
    assert "2 channel (2 ch)" in visitor.get(preview).text
    visitor.post(preview, {"chart": "bog"})
    assert visitor.get("/shows/1/charts/files/bog.csv").text.startswith("maker,model,mode,channel")
    refused = upload(visitor, "Bog.csv", b"channel,name\nx,Dimmer\n")
    assert refused.status_code == 422
    assert "Line 2" in refused.text
    assert visitor.post("/shows/1/charts/files", {}).status_code == 422


def test_words_are_taught_and_forgotten(visitor: Visitor) -> None:
    """A taught wording is understood in the next paste, until it is forgotten."""
    chart = {"text": "1 twinkle rate\n2 red", "setter": "menu", "model": "X", "chart": ""}
    assert "1 line sure, 1 guessed" in visitor.post("/shows/1/charts/read", chart, htmx=True).text
    visitor.post(
        "/shows/1/charts/files/words", {"wording": "Twinkle  rate", "means": "shutter/strobe"}
    )
    assert "2 lines sure" in visitor.post("/shows/1/charts/read", chart, htmx=True).text
    assert (
        "<b>twinkle rate</b> means shutter/strobe"
        in visitor.get("/shows/1/charts/files/words").text
    )
    visitor.post("/shows/1/charts/files/words", {"forget": "twinkle rate"})
    assert "1 line sure" in visitor.post("/shows/1/charts/read", chart, htmx=True).text
    for odd in ({"wording": "", "means": "red"}, {"wording": "x", "means": "sparkle"}):
        assert visitor.post("/shows/1/charts/files/words", odd).status_code == 422


def test_what_is_explained_while_pasting_is_kept(visitor: Visitor, app: Flask) -> None:
    """Saving a chart keeps the wordings that were explained for it."""
    form = {"text": "1 twinkle\n2 red", "setter": "menu", "model": "X", "chart": "", "revision": 1}
    visitor.post("/shows/1/charts/paste", {**form, "wording": "twinkle", "means": "shutter/strobe"})
    assert [str(f) for _, f in app.extensions["fence_pages"].wordings.all()] == ["shutter/strobe"]


def test_a_copy_has_all_that_the_chart_has(visitor: Visitor, app: Flask) -> None:
    """A copy is a chart of its own with all modes, those in several parts too."""
    shelf = app.extensions["fence_pages"].library
    visitor.post("/shows/1/charts/dibber-cyc-duo/copy", {})
    made = shelf.newest("dibber-cyc-duo-copy")
    assert made.modes == shelf.newest("dibber-cyc-duo").modes
    assert made.model == "Cyc Duo copy"


def test_cells_are_repeated(visitor: Visitor) -> None:
    """A mode with another number of cells is written below the text; what cannot be repeated is
    told."""
    text = "Mode: small\n1 dimmer\n2 red\n3 green"
    form = {"text": text, "setter": "menu", "model": "X", "do": "repeat", "of": "small"}
    page = visitor.post(
        "/shows/1/charts/paste", {**form, "first": "2", "last": "3", "times": "4"}
    ).text
    assert "Mode: 9 channel, 4 cells" in page
    assert "9 cell 4 green" in page
    for odd in (("2", "9", "4"), ("2", "3", "400"), ("", "3", "2")):
        refused = visitor.post(
            "/shows/1/charts/paste",
            {**form, **dict(zip(("first", "last", "times"), odd, strict=True))},
        )
        assert refused.status_code == 422
        assert "2 red" in refused.text


def test_ready_made_desks_fill_the_form(visitor: Visitor) -> None:
    """A ready-made desk fills its limits in; nothing is saved by looking."""
    assert 'value="16"' in visitor.get("/shows/1/settings?desk=bucket").text
    assert 'value="Shed desk"' in visitor.get("/shows/1/settings").text
