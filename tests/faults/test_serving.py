"""The server: whom it answers, what it refuses early, how it ends, and what a fault of the disk
looks like there."""

from __future__ import annotations

import http.client
import re
import signal
import socket
import sqlite3
import stat
from collections.abc import Callable, Iterator
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from urllib.parse import urlencode

import pytest
from flask.testing import FlaskClient

from fence.store import errors
from fence.store.database import open_engine
from fence.store.shows import DamagedShow, ShowStore
from fence.web import create_app
from fence.web.assets import shipped_version
from fence.web.security import trusted
from tests.conftest import Visitor, until
from tests.faults.conftest import Served, as_anybody


@pytest.mark.parametrize(
    ("host", "status"),
    [
        ("localhost", 200),
        ("127.0.0.1:5080", 200),
        ("[::1]:80", 200),
        ("desk.local", 200),
        ("evil.example", 400),
        ("127.0.0.1.evil.example", 400),
        ("desk.local.evil.example", 400),
        ("a b", 400),
        ("", 400),
    ],
)
def test_only_names_it_was_told_are_answered(database: Path, host: str, status: int) -> None:
    """A page of elsewhere whose name points at this machine reaches nothing, by reading or by
    saving."""
    app = create_app(database, {"TESTING": True}, names=("desk.local", "0.0.0.0"))
    client: FlaskClient = app.test_client()
    for method in ("GET", "POST"):
        told = client.open(
            "/shows/2/undo" if method == "POST" else "/", method=method, headers={"Host": host}
        )
        # in, and to the log-in: it can be reached
        assert told.status_code == (400 if status == 400 else 302)
        if status == 400:
            assert "does not answer under that host name" in told.text or not told.text.strip()
    app.extensions["fence_pages"].store.engine.dispose()


def test_listening_everywhere_is_no_name() -> None:
    """An address to listen on that means "all" lets no other name in; an IPv6 address is written as
    browsers do."""
    own = {"localhost", "127.0.0.1", "::1"}
    assert trusted(["0.0.0.0", "::", ""]) == own
    assert trusted(["fe80::1", "[fe80::2]", "Desk", "b\u00fchne.local"]) - own == {
        "fe80::1",
        "fe80::2",
        "desk",
        "xn--bhne-0ra.local",
    }


@pytest.mark.parametrize("path", ["//evil.example/x", "/\\evil.example", "///x", "/\\/x"])
def test_the_way_back_stays_here(visitor: Visitor, path: str) -> None:
    """After the theme button nobody is led to another host, whatever page it says that it came
    from."""
    visitor.get("/")
    sent = {"csrf_token": visitor.token}
    told = visitor.client.post("/theme", data=sent, headers={"Referer": f"http://localhost{path}"})
    assert told.headers["Location"] == "/"
    told = visitor.client.post(
        "/theme", data=sent, headers={"Referer": "http://localhost/shows/2/rig?q=x"}
    )
    assert told.headers["Location"] == "/shows/2/rig?q=x"


def test_pages_are_asked_for_anew(visitor: Visitor) -> None:
    """No page is kept on the way; the shipped styles may be."""
    for path in ("/", "/shows/2/address", "/shows/2/export.csv", "/nowhere"):
        assert visitor.get(path).headers["Cache-Control"] == "private, no-cache"
    assert (
        "max-age"
        in visitor.get(f"/static/{shipped_version()}/css/tokens.css").headers["Cache-Control"]
    )


def test_a_body_too_large_is_refused_before_it_is_sent(
    database: Path, serve: Callable[..., Served]
) -> None:
    """The answer comes on the heading alone."""
    served = serve(database)
    with socket.create_connection(("127.0.0.1", served.port), timeout=10) as line:
        line.sendall(
            b"POST /import HTTP/1.1\r\nHost: localhost\r\nContent-Length: 900000000\r\n\r\n"
        )
        assert b" 413 " in line.recv(1000)


def test_idle_connections_block_nobody(database: Path, serve: Callable[..., Served]) -> None:
    """With 150 connections that say nothing, pages still come."""
    served = serve(database)
    with ExitStack() as idle:
        for _ in range(150):
            idle.enter_context(socket.create_connection(("127.0.0.1", served.port), timeout=10))
        assert served.client().get("/healthz") == (200, "ok")


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGINT])
def test_being_ended_finishes_what_was_begun(
    database: Path, serve: Callable[..., Served], how: signal.Signals
) -> None:
    """A save that waits for the database when the server is told to end is saved and answered; then
    it is closed."""
    served = serve(database)
    client = served.client()
    page = client.get("/shows/2/address")[1]
    seen = re.search(r'name="revision" value="(\d+)"', page)
    assert seen
    body = urlencode({"csrf_token": client.token, "fixture": 1, "by": 1, "revision": seen[1]})
    headers = {"Cookie": client.cookie, "Content-Type": "application/x-www-form-urlencoded"}
    line = http.client.HTTPConnection("127.0.0.1", served.port, timeout=60)
    with held(database):
        line.request("POST", "/shows/2/address/nudge", body, headers)
        until(lambda: taken_in(line.sock.getsockname()[1], served.port), "it is taken in")
        served.process.send_signal(how)
        until(lambda: delivered(served.process.pid), "the signal is delivered")
    assert line.getresponse().status == 302
    line.close()
    assert served.process.wait(timeout=30) == 0
    assert not database.with_name(database.name + "-wal").exists()
    store = ShowStore(open_engine(database))
    assert store.get(2).revision == int(seen[1]) + 1
    store.engine.dispose()


def taken_in(sender: int, receiver: int) -> bool:
    """Whether the server has read all that was sent to it on a connection between these ports of
    this machine."""
    for entry in Path("/proc/net/tcp").read_text().splitlines()[1:]:
        local, remote, _, queues = entry.split()[1:5]
        if (int(local.split(":")[1], 16), int(remote.split(":")[1], 16)) == (receiver, sender):
            return int(queues.split(":")[1], 16) == 0
    return False


def delivered(pid: int) -> bool:
    """Whether no signal waits for the process any more."""
    return re.search(r"^ShdPnd:\s*0+$", Path(f"/proc/{pid}/status").read_text(), re.M) is not None


# ---- faults of the disk, seen from a page


@contextmanager
def held(path: Path) -> Iterator[None]:
    """Another program holds the write lock."""
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        yield
        other.execute("ROLLBACK")


def test_a_lock_held_for_long_is_a_message(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The step is not saved, which is said; pages can be read meanwhile, and afterwards it goes."""
    monkeypatch.setattr("fence.store.database.BUSY_SECONDS", 0.2)
    app = create_app(database, {"TESTING": True})
    visitor = Visitor(app.test_client())
    store: ShowStore = app.extensions["fence_pages"].store
    step = {"fixture": 1, "by": 1, "revision": store.get(2).revision}
    with held(database):
        told = visitor.post("/shows/2/address/nudge", step, htmx=True)
        assert told.status_code == 503
        assert "Nothing of this step is saved" in told.text
        assert visitor.get("/shows/2/address").status_code == 200
        assert visitor.get("/").status_code == 200
    assert visitor.post("/shows/2/address/nudge", step).status_code == 302
    store.engine.dispose()


def test_a_full_database_is_a_message(visitor: Visitor, shows: ShowStore) -> None:
    """Where the disk has no more room the step is not saved, which is said, and the show is as it
    was."""
    before = shows.get(2)
    with shows.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    told = visitor.post("/shows/2/copy", {})
    assert told.status_code == 503
    assert "disk is full" in told.text
    assert ShowStore(shows.engine).get(2) == before


def test_a_damaged_show_leaves_the_others_usable(visitor: Visitor, shows: ShowStore) -> None:
    """A show whose rows are no show is marked in the list; the others open, and nothing is a stack
    trace."""
    with shows.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE profiles SET document = '{\"id\": 5}' WHERE show_id = 2")
        connection.exec_driver_sql("UPDATE shows SET summary = NULL WHERE id = 2")
    shows._kept.clear()
    page = visitor.get("/").text
    assert page.count("cannot be read") == 1
    assert visitor.get("/shows/1/address").status_code == 200
    told = visitor.get("/shows/2/address")
    assert told.status_code == 422
    assert "its rows are damaged" in told.text
    with pytest.raises(DamagedShow):
        shows.get(2)


def test_a_damaged_page_of_the_file_leaves_the_others_usable(database: Path) -> None:
    """With a torn page under one show's fixtures, that show is told and another one opens."""
    store = ShowStore(open_engine(database))
    spare = store.copy(1, who="A")
    store.engine.dispose()
    with closing(sqlite3.connect(database)) as connection:
        size = connection.execute("PRAGMA page_size").fetchone()[0]
        leaf = connection.execute(
            "SELECT pageno FROM dbstat WHERE name = 'fixtures' AND pagetype = 'leaf' ORDER BY "
            "path DESC LIMIT 1"
        ).fetchone()[0]
    with database.open("r+b") as stream:
        stream.seek((leaf - 1) * size)
        stream.write(b"\xff" * size)
    app = create_app(database, {"TESTING": True})
    visitor = Visitor(app.test_client())
    statuses = {n: visitor.get(f"/shows/{n}/address").status_code for n in (1, 2, spare.id)}
    assert set(statuses.values()) == {200, 503}
    assert visitor.get("/").status_code == 200
    app.extensions["fence_pages"].store.engine.dispose()


def test_a_read_only_database_can_be_looked_at(
    database: Path, serve: Callable[..., Served]
) -> None:
    """Pages and exports come; a step is told that nothing can be saved here."""
    create_app(database).extensions["fence_pages"].store.engine.dispose()  # so that there is a key
    database.chmod(0o400)
    served = serve(database, first=as_anybody)
    client = served.client()
    assert (
        client.get("/")[0]
        == client.get("/shows/2/address")[0]
        == client.get("/shows/2/export.json")[0]
        == 200
    )
    status, told = client.post("/shows/2/address/nudge", fixture=1, by=1, revision=1)
    assert (status, "can only be read" in told) == (503, True)
    assert stat.S_IMODE(database.stat().st_mode) == 0o400


@pytest.mark.parametrize("code", list(errors._MEANINGS))
def test_what_sqlite_says_is_said_in_words(code: int) -> None:
    """Each kind of failure has a sentence of its own, also in its extended forms."""
    error = sqlite3.OperationalError("bare words")
    error.sqlite_errorcode = code | (3 << 8)
    assert str(errors.told(error)) == errors._MEANINGS[code]
    assert "bare words" not in str(errors.told(sqlite3.OperationalError("bare words")))
