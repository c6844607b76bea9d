"""Who comes from outside and holds on to things: silence, halves of requests; in each way that
Fence is served."""

from __future__ import annotations

import socket
import ssl
from collections.abc import Callable, Iterator
from contextlib import ExitStack, suppress
from dataclasses import dataclass, field
from pathlib import Path
from shutil import copyfile

import pytest

from fence.store.database import open_engine
from fence.store.people import People, Role
from fence.store.shows import utc_now
from fence.web.assets import shipped_version
from tests.faults.conftest import Client, Served, start_serving

PASSWORD = "a quiet long night"
FORMS = ("loopback", "crew", "https")


@dataclass
class House:
    """A Fence that is served in one of three ways: to one person, to a crew, to a crew over
    HTTPS."""

    served: Served
    trust: ssl.SSLContext | None
    door: bool

    def client(self) -> Client:
        """Somebody who is in."""
        found = Client(self.served.port, trust=self.trust)
        if self.trust is not None:
            found.headers["Referer"] = f"https://localhost:{self.served.port}/"
        if self.door:
            found.get("/log-in")
            assert found.post("/log-in", name="Crew", password=PASSWORD)[0] == 302
        found.get("/shows/1/set")
        return found

    def line(self) -> socket.socket:
        """A bare connection."""
        return socket.create_connection(("127.0.0.1", self.served.port), timeout=30)

    def raw(self) -> socket.socket:
        """A connection that is ready for a request."""
        line = self.line()
        return self.trust.wrap_socket(line, server_hostname="localhost") if self.trust else line


@dataclass
class Houses:
    """A Fence in each of the ways, made when it is asked for and kept for all tests of this
    file."""

    folder: Callable[[str], Path]
    furnished: Path
    pair: tuple[Path, Path, Path]
    made: dict[str, House] = field(default_factory=dict)

    def of(self, form: str) -> House:
        """The one of a form."""
        if form not in self.made:
            path = self.folder(form) / "fence.db"
            copyfile(self.furnished, path)
            self.made[form] = self._opened(path, form)
        return self.made[form]

    def _opened(self, path: Path, form: str) -> House:
        certificate, key, trusted = self.pair
        options: tuple[str, ...] = ()
        if form != "loopback":
            engine = open_engine(path)
            people = People(engine, utc_now)
            for role in (Role.OWNER, Role.CREW):
                people.join(people.invite(role, hours=1, by=""), role.capitalize(), PASSWORD)
            engine.dispose()
            options = ("--name", "fence.test")
        if form != "https":
            return House(start_serving(path, *options), None, form != "loopback")
        served = start_serving(path, *options, "--cert", str(certificate), "--key", str(key))
        return House(served, ssl.create_default_context(cafile=str(trusted)), True)

    def forget(self, house: House) -> None:
        """It has ended: the next one is made anew."""
        house.served.end()
        self.made = {form: one for form, one in self.made.items() if one is not house}


@pytest.fixture(scope="module")
def houses(
    tmp_path_factory: pytest.TempPathFactory, furnished: Path, pair: tuple[Path, Path, Path]
) -> Iterator[Houses]:
    """A Fence in each of the ways."""
    found = Houses(tmp_path_factory.mktemp, furnished, pair)
    yield found
    for house in list(found.made.values()):
        found.forget(house)


@pytest.fixture
def house(request: pytest.FixtureRequest, houses: Houses) -> House:
    """The Fence of the way that the test asks for."""
    return houses.of(request.param)


in_each_way = pytest.mark.parametrize("house", FORMS, indirect=True)


HALVES = (
    b"",
    b"GET /healthz HTTP/1.1\r\nHost: loc",
    b"POST /log-in HTTP/1.1\r\nHost: localhost\r\nContent-Length: 9\r\n\r\nn",
)

STYLE = f"/static/{shipped_version()}/vendor/bootstrap/bootstrap.min.css"
LARGE = f"GET {STYLE} HTTP/1.1\r\nHost: localhost\r\n\r\n".encode()


@in_each_way
def test_silence_and_halves_hold_nobody_up(house: House) -> None:
    """With 60 connections that say nothing, 60 that say half a head and 60 with half a body, in the
    clear and after a handshake, pages and marks are answered."""
    client = house.client()
    with ExitStack() as held:
        for half in HALVES:
            for number in range(60):
                line = held.enter_context(house.line() if number % 2 and not half else house.raw())
                if half:
                    line.sendall(half)
        assert client.get("/healthz") == (200, "ok")
        assert client.post("/shows/1/set/1/serial", serial="S 77")[0] == 302
        assert "S 77" in client.get("/shows/1/set/1")[1]


@in_each_way
def test_more_connections_than_files(house: House) -> None:
    """With 1,500 half-open connections, pages still come, to those who are in and to those who come
    anew."""
    client = house.client()
    with ExitStack() as held:
        for _ in range(1500):
            held.enter_context(house.line())
        assert client.get("/healthz") == (200, "ok")
        assert house.client().get("/shows/1/set")[0] == 200


@in_each_way
def test_one_that_reads_nothing_holds_nobody_up(house: House) -> None:
    """Forty who ask for a large file and never take it: others are answered."""
    client = house.client()
    with ExitStack() as held:
        for _ in range(40):
            held.enter_context(house.raw()).sendall(LARGE * 20)
        assert client.get("/shows/1/set")[0] == 200


def refused(house: House, head: str, body: bytes = b"") -> bytes:
    """The first line of the answer to a request, the body of which is sent as far as it is
    taken."""
    with house.raw() as line:
        with suppress(OSError):
            line.sendall(head.encode() + b"\r\nHost: localhost\r\n\r\n" + body)
        return line.recv(1000).split(b"\r\n")[0]


@pytest.mark.parametrize("house", ["crew", "https"], indirect=True)
@pytest.mark.parametrize("path", ["/log-in", "/join/ABC", "/import"])
def test_who_is_not_in_sends_little(house: House, path: str) -> None:
    """16 kB are taken from those who are not in, and not a byte more; the answer comes on the
    heading alone."""
    form = (
        f"POST {path} HTTP/1.1\r\nContent-Type: "
        "application/x-www-form-urlencoded\r\nContent-Length: "
    )
    assert b" 413" in refused(house, f"{form}{16 * 1024 + 1}")
    client = Client(house.served.port, trust=house.trust)
    client.get("/log-in")
    for cookie in (client.cookie, f"{client.cookie.split('=')[0]}=forged", "x=y"):
        assert b" 413" in refused(house, f"{form}{16 * 1024 + 1}\r\nCookie: {cookie}")
    if path == "/import":
        assert b" 413" not in refused(
            house, f"{form}{20}\r\nCookie: {house.client().cookie}", b"a" * 20
        )
        assert b" 413" in refused(
            house, f"{form}{20 * 2**20 + 1}\r\nCookie: {house.client().cookie}"
        )
        assert b" 408" in refused(
            house, f"{form}{20 * 2**20}\r\nCookie: {house.client().cookie}", b"a" * 100
        )
    assert b" 413" in refused(house, f"{form}{10**15}")
    assert b" 413" not in refused(house, f"{form}{16 * 1024}", b"a" * 16 * 1024)
    chunked = form.replace("Content-Length: ", "Transfer-Encoding: chunked")
    chunk = b"1000\r\n" + b"a" * 0x1000 + b"\r\n"
    assert b" 413" in refused(house, chunked, chunk * 5 + b"0\r\n\r\n")
    assert b" 413" not in refused(house, chunked, chunk * 4 + b"0\r\n\r\n")


@in_each_way
def test_a_form_may_come_in_pieces(house: House) -> None:
    """With a length that is not told beforehand it is read all the same."""
    client = house.client()
    body = f"csrf_token={client.token}&serial=S+99".encode()
    head = (
        "POST /shows/1/set/1/serial HTTP/1.1\r\nTransfer-Encoding: chunked\r\nContent-Type: "
        f"application/x-www-form-urlencoded\r\nCookie: {client.cookie}\r\nReferer: "
        "https://localhost/"
    )
    pieces = b"".join(
        b"%x\r\n%s\r\n" % (len(body[at : at + 9]), body[at : at + 9])
        for at in range(0, len(body), 9)
    )
    assert b" 302" in refused(house, head, pieces + b"0\r\n\r\n")
    assert "S 99" in client.get("/shows/1/set/1")[1]


@in_each_way
def test_what_is_no_request_is_refused(house: House) -> None:
    """Rubbish, heads without end, lengths that are none: a refusal or a closed line, and Fence goes
    on."""
    long = b"GET / HTTP/1.1\r\nHost: localhost\r\nX: " + b"a" * 70_000 + b"\r\n\r\n"
    for sent in (
        b"\x16\x03\x01" * 50,
        b"\r\n\r\n",
        b"GET\r\n\r\n",
        long,
        b"GET / HTTP/9\r\n\r\n",
        b"POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: -5\r\n\r\n",
        b"POST / HTTP/1.1\r\nHost: localhost\r\nContent-Length: x\r\n\r\n",
        b"GET /%00 HTTP/1.1\r\nHost: localhost\r\n\r\n",
        b"GET /\xff HTTP/1.1\r\nHost: localhost\r\n\r\n",
    ):
        for line in (house.line(), house.raw()):
            with line, suppress(OSError):
                line.sendall(sent)
                assert b" 500" not in line.recv(1000).split(b"\r\n")[0], sent
    assert house.client().get("/shows/1/set")[0] == 200


@in_each_way
def test_the_end_comes_when_it_is_asked_for(house: House, houses: Houses) -> None:
    """With all of these held open, SIGTERM ends it in good order; what comes after it is made
    anew."""
    with ExitStack() as held:
        for half in HALVES:
            held.enter_context(house.raw()).sendall(half)
        held.enter_context(house.line())
        held.enter_context(house.raw()).sendall(LARGE * 20)
        assert house.served.stop() == 0
    houses.forget(house)
