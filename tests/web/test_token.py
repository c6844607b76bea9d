"""A step whose token is out of date: nothing of it is done, and nothing that was typed is lost."""

from __future__ import annotations

import io
import re
from html import unescape
from pathlib import Path

import pytest
from flask import Flask
from werkzeug.test import TestResponse

from fence.web import create_app

HERE = "http://localhost"
TYPED = {"name": "Moss\nGarden & “more”", "note": "at the pond", "csrf_token": "of yesterday"}


def sent(
    app: Flask, origin: str, fields: dict[str, object] | None = None, *, htmx: bool = False
) -> TestResponse:
    """A new show, asked for by a browser without a cookie."""
    headers = {"Origin": origin} | ({"HX-Request": "true"} if htmx else {})
    return app.test_client().post("/shows?way=new", data=fields or TYPED, headers=headers)


def test_a_form_is_offered_again_as_it_was_typed(app: Flask) -> None:
    """With a token that is taken; the step is done once somebody says so."""
    client = app.test_client()
    refused = client.post("/shows?way=new", data=TYPED, headers={"Origin": HERE})
    assert refused.status_code == 400
    form = re.search(r'<form method="post" action="/shows\?way=new">.*?</form>', refused.text, re.S)
    assert form
    fields = {
        name: unescape(value)
        for name, value in re.findall(r'name="([^"]*)"\s+value="([^"]*)"', form[0])
    }
    assert fields.pop("csrf_token") not in ("", TYPED["csrf_token"])
    assert fields == {name: value for name, value in TYPED.items() if name != "csrf_token"}
    token = re.search(r'name="csrf_token" value="([^"]+)"', form[0])
    assert token
    again = client.post("/shows?way=new", data={**TYPED, "csrf_token": token[1]})
    assert again.status_code != 400


@pytest.mark.parametrize(
    "origin", ["", "null", "http://elsewhere.test", "http://localhost.elsewhere.test", "//"]
)
def test_nothing_is_offered_to_pages_elsewhere(app: Flask, origin: str) -> None:
    """What another site typed into a form is not laid before anybody; nor are its pages told."""
    for htmx in (False, True):
        refused = sent(app, origin, htmx=htmx)
        assert refused.status_code == 400
        assert "load it again" in refused.text
        assert "Moss" not in refused.text
        assert "X-Fresh-Token" not in refused.headers


def test_a_fragment_comes_with_a_fresh_token(app: Flask) -> None:
    """By which the page sends the step again; without cookies the message says what helps."""
    client = app.test_client()
    refused = client.post(
        "/shows?way=new", data=TYPED, headers={"Origin": HERE, "HX-Request": "true"}
    )
    assert (refused.status_code, refused.headers["HX-Retarget"]) == (400, "#notice")
    assert "allow cookies" in refused.text
    token = refused.headers["X-Fresh-Token"]
    assert client.post("/shows?way=new", data={**TYPED, "csrf_token": token}).status_code != 400
    assert sent(app, HERE, {**TYPED, "csrf_token": token}).status_code == 400, "without its cookie"


def test_files_are_chosen_again(app: Flask) -> None:
    """A page cannot hold a file that was chosen."""
    refused = sent(app, HERE, {**TYPED, "file": (io.BytesIO(b"label"), "rig.csv")})
    assert (refused.status_code, "load it again" in refused.text) == (400, True)


def test_where_people_log_in_nothing_is_repeated(tmp_path: Path) -> None:
    """Somebody else may be at that browser by now."""
    app = create_app(tmp_path / "guarded.db", names=("fence.test",))
    for htmx in (False, True):
        headers = {"Origin": HERE} | ({"HX-Request": "true"} if htmx else {})
        fields = {"name": "Owner", "password": "not to be shown again", "csrf_token": "old"}
        refused = app.test_client().post("/log-in", data=fields, headers=headers)
        assert (refused.status_code, "load it again" in refused.text) == (400, True)
        assert "not to be shown again" not in refused.text
        assert "X-Fresh-Token" not in refused.headers


def test_the_log_of_the_server_says_why(app: Flask, caplog: pytest.LogCaptureFixture) -> None:
    """Whoever looks after a Fence sees it: a browser without cookies is met there first."""
    sent(app, HERE)
    assert "A step at /shows was not taken: " in caplog.text
