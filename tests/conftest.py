"""Fixtures of the whole suite: a store on disk, the application, a client, and a browser on a
served demo."""

from __future__ import annotations

import gc
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from os import environ
from pathlib import Path
from shutil import copyfile
from time import monotonic, sleep

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import settings
from werkzeug.test import TestResponse

from fence.cli.serving import make_demo
from fence.store.database import open_engine
from fence.store.shows import ShowStore
from fence.web import create_app
from fence.web.app import attach
from fence.work.rdm_jobs import Work, Works
from tests import warm
from tests.examples import USUAL, examples
from tests.markup import as_read

settings.register_profile("fence", examples(USUAL))
settings.load_profile("fence")


def pytest_collection_finish() -> None:
    """What all tests share is no garbage: it is not looked through again and again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)


@pytest.fixture(autouse=True)
def children(monkeypatch: pytest.MonkeyPatch) -> None:
    """What sends and the practice rig begin warm; they do without in the tests that start all of
    Fence."""
    monkeypatch.setattr("fence.work.child.Popen", warm.start)


@pytest.fixture(scope="session")
def empty(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A database of the newest schema with no shows, made once and copied for each test."""
    path = tmp_path_factory.mktemp("empty") / "empty.db"
    open_engine(path).dispose()
    return path


@pytest.fixture
def store(tmp_path: Path, empty: Path) -> Iterator[ShowStore]:
    """A store on a fresh database file."""
    copyfile(empty, tmp_path / "fence.db")
    found = ShowStore(open_engine(tmp_path / "fence.db"))
    yield found
    found.engine.dispose()


@pytest.fixture(scope="session")
def furnished(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A database with both demo shows, made once and copied for each test."""
    path = tmp_path_factory.mktemp("furnished") / "demo.db"
    engine = open_engine(path)
    make_demo(ShowStore(engine))
    engine.dispose()
    assert not path.with_name("demo.db-wal").exists()
    return path


@pytest.fixture(scope="session")
def application(tmp_path_factory: pytest.TempPathFactory) -> Flask:
    """The application, made once: its routes and templates are the same for every test."""
    return create_app(tmp_path_factory.mktemp("application") / "none.db", {"TESTING": True})


@pytest.fixture
def app(application: Flask, tmp_path: Path, furnished: Path) -> Iterator[Flask]:
    """The application on a database of its own with both demo shows: 1 is the clean one, 2 the one
    with problems."""
    with attached(application, tmp_path / "web.db", furnished):
        yield application


@contextmanager
def attached(application: Flask, path: Path, furnished: Path) -> Iterator[None]:
    """Put an application on a copy of a database, its settings as they were before."""
    copyfile(furnished, path)
    settled = dict(application.config)
    attach(application, path)
    try:
        yield
    finally:
        application.extensions["fence_pages"].store.engine.dispose()
        application.config.clear()
        application.config.update(settled)


class Visitor:
    """A browser without scripts: keeps cookies, sends the token that its pages carry."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        self.token = ""

    def get(self, path: str, **options: object) -> TestResponse:
        """Load a page and remember its token."""
        response = self.client.get(path, **options)  # type: ignore[arg-type]
        response.get_data()
        response.close()
        _tidy(response)
        if response.mimetype == "text/html" and (
            found := re.search(r'name="csrf_token" value="([^"]+)"', response.text)
        ):
            self.token = found[1]
        return response

    def post(self, path: str, data: dict[str, object], *, htmx: bool = False) -> TestResponse:
        """Send a form with the token of the last page."""
        if not self.token:
            self.get("/")
        headers = {"HX-Request": "true"} if htmx else {}
        response = self.client.post(path, data={"csrf_token": self.token, **data}, headers=headers)
        response.get_data()
        response.close()
        _tidy(response)
        response.request.environ["wsgi.input"].close()
        return response


def _tidy(response: TestResponse) -> None:
    """Markup as a browser reads it, so that no test rests on how a template is laid out."""
    if response.mimetype == "text/html":
        response.set_data(as_read(response.get_data(as_text=True)))


@pytest.fixture
def visitor(app: Flask) -> Visitor:
    """Someone with a browser."""
    return Visitor(app.test_client())


def until(condition: Callable[[], object], what: str, seconds: float = 60) -> None:
    """Wait for what is expected; its end is there for what never comes, and says nothing about
    speed."""
    end = monotonic() + seconds
    while not condition():
        if monotonic() > end:
            raise AssertionError(f"It does not come: {what}")
        sleep(0.02)


@pytest.fixture
def over(app: Flask) -> Callable[[int], Work]:
    """Wait for the end of the work that goes on for a show, and give it."""

    def wait(show_id: int) -> Work:
        works: Works = app.extensions["fence_works"]
        key = app.extensions["fence_pages"].store.get(show_id).key
        until(lambda: (work := works.of(key)) is not None and work.over, "the end of the work")
        found = works.of(key)
        assert found is not None
        return found

    return wait


@pytest.fixture
def shows(app: Flask) -> ShowStore:
    """The store behind the application."""
    found: ShowStore = app.extensions["fence_pages"].store
    return found


LONG = (
    "tests/browser/",
    "tests/faults/",
    "tests/standins/",
    "tests/core/troubleshooting/",
    "tests/wire/test_rdm.py",
    "tests/wire/test_packets.py",
    "tests/store/test_shows.py",
    "tests/web/test_access.py",
    "tests/web/test_any_field.py",
    "tests/web/test_talk.py",
    "tests/web/test_words.py",
    "tests/test_cli.py",
)
"""Where tests stand that reckon for long, or wait for processes and the network."""


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Tests that take long begin first, a share of them with each worker: none is left alone with
    one at the end. Each worker is given a stretch of the list."""
    workers = int(environ.get("PYTEST_XDIST_WORKER_COUNT", "1"))
    long = [item for item in items if item.nodeid.startswith(LONG)]
    short = [item for item in items if not item.nodeid.startswith(LONG)]
    items[:] = [
        item
        for worker in range(workers)
        for item in (*long[worker::workers], *_stretch(short, worker, workers))
    ]


def _stretch(items: list[pytest.Item], worker: int, workers: int) -> list[pytest.Item]:
    """The share of a worker of tests that are as they come."""
    return items[len(items) * worker // workers : len(items) * (worker + 1) // workers]
