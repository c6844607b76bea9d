"""Fence as a process of its own, so that it can be starved, interrupted and served twice."""

from __future__ import annotations

import ctypes
import http.client
import os
import re
import resource
import signal
import socket
import ssl
import subprocess
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from shutil import copyfile
from urllib.parse import urlencode

import pytest
import trustme

from tests import warm
from tests.warm import COMMAND

PR_CAPBSET_DROP, CAP_DAC_OVERRIDE, CAP_DAC_READ_SEARCH = 24, 1, 2


def as_anybody() -> None:
    """In a child: file permissions count, also for root."""
    prctl = ctypes.CDLL(None, use_errno=True).prctl
    for power in (CAP_DAC_OVERRIDE, CAP_DAC_READ_SEARCH):
        prctl(PR_CAPBSET_DROP, power, 0, 0, 0)


def on_a_full_disk(bytes_left: int) -> Callable[[], None]:
    """In a child: no file can grow beyond so many bytes, as on a disk that has no more room."""

    def limit() -> None:
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (bytes_left, bytes_left))

    return limit


def fence(*words: object, **options: object) -> subprocess.CompletedProcess[str]:
    """Run a command to its end, as another program would."""
    settings: dict[str, object] = {
        "capture_output": True,
        "text": True,
        "timeout": 120,
        "check": False,
        **options,
    }
    return warm.run([*COMMAND, *words], **settings)


def one_line(done: subprocess.CompletedProcess[str], words: str) -> None:
    """What went wrong was said in one line with the documented exit code, and no trace."""
    assert done.returncode == 2, (done.returncode, done.stdout, done.stderr)
    assert re.search(words, done.stderr), done.stderr
    assert len(done.stderr.strip().splitlines()) == 1, done.stderr


def free_port() -> int:
    """A port of this machine that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@dataclass
class Client:
    """Someone with a browser without scripts, over a real connection."""

    port: int
    cookies: dict[str, str] = field(default_factory=dict)
    token: str = ""
    headers: dict[str, str] = field(default_factory=dict)
    trust: ssl.SSLContext | None = None

    @property
    def cookie(self) -> str:
        """What it sends of its cookies."""
        return "; ".join(f"{name}={value}" for name, value in self.cookies.items())

    def connect(self) -> http.client.HTTPConnection:
        """A new connection, encrypted where it trusts a certificate."""
        if self.trust is not None:
            return http.client.HTTPSConnection(
                "localhost", self.port, timeout=60, context=self.trust
            )
        return http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)

    def ask(self, method: str, path: str, body: str | None = None) -> tuple[int, str]:
        """Send a request; gives the status and the text of the answer."""
        connection = self.connect()
        try:
            headers = {"Cookie": self.cookie, **self.headers}
            if body is not None:
                headers["Content-Type"] = "application/x-www-form-urlencoded"
            connection.request(method, path, body, headers)
            answer = connection.getresponse()
            text = answer.read().decode(errors="replace")
            for cookie in answer.headers.get_all("Set-Cookie", ()):
                name, _, value = cookie.split(";")[0].partition("=")
                self.cookies[name] = value
            if found := re.search(r'name="csrf_token" value="([^"]+)"', text):
                self.token = found[1]
            return answer.status, text
        finally:
            connection.close()

    def get(self, path: str) -> tuple[int, str]:
        """Load a page."""
        return self.ask("GET", path)

    def post(self, path: str, **fields: object) -> tuple[int, str]:
        """Send a form."""
        if not self.token:
            self.get("/")
        return self.ask("POST", path, urlencode({"csrf_token": self.token, **fields}))


def interruptible(then: Callable[[], None]) -> Callable[[], None]:
    """In a child: it can be interrupted even where the tests run in the background, which shells
    make deaf to it."""

    def prepare() -> None:
        signal.signal(signal.SIGINT, signal.default_int_handler)
        then()

    return prepare


@dataclass
class Served:
    """A running ``fence serve``."""

    process: subprocess.Popen[str]
    port: int

    def client(self) -> Client:
        """A new browser on it."""
        return Client(self.port)

    def stop(self, how: signal.Signals = signal.SIGTERM) -> int:
        """End it and give its exit code."""
        self.process.send_signal(how)
        return self.process.wait(timeout=30)

    def end(self) -> None:
        """End it the hard way, and close what led to it."""
        self.process.kill()
        self.process.wait(timeout=30)
        if self.process.stdout:
            self.process.stdout.close()


@pytest.fixture
def database(tmp_path: Path, furnished: Path) -> Path:
    """A database with both demo shows."""
    path = tmp_path / "fence.db"
    copyfile(furnished, path)
    return path


def start_serving(
    path: Path, *options: str, first: Callable[[], None] | None = None, **settings: object
) -> Served:
    """Start ``fence serve`` on a database, and give it once it is there."""
    port = free_port()
    process = warm.start(
        [*COMMAND, "serve", "--db", path, "--port", port, *options],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
        env={**os.environ, "PYTHONUNBUFFERED": "1"},
        preexec_fn=interruptible(first) if first is not None else None,
        **settings,
    )
    assert process.stdout is not None
    assert "Fence is at" in process.stdout.readline()
    return Served(process, port)


@pytest.fixture
def serve() -> Iterator[Callable[..., Served]]:
    """Start ``fence serve`` on a database; all are ended when the test ends."""
    started: list[Served] = []

    def start(path: Path, *options: str, **settings: object) -> Served:
        started.append(start_serving(path, *options, **settings))  # type: ignore[arg-type]
        return started[-1]

    yield start
    for served in started:
        served.end()


@pytest.fixture(scope="session")
def pair(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path, Path]:
    """A certificate for this machine, its key, and whom to trust for it; made for this run."""
    folder = tmp_path_factory.mktemp("pair")
    made = trustme.CA()
    one = made.issue_cert("localhost", "127.0.0.1")
    certificate, key, trusted = folder / "cert.pem", folder / "key.pem", folder / "trusted.pem"
    one.private_key_pem.write_to_path(key)
    for part in one.cert_chain_pems:
        part.write_to_path(certificate, append=True)
    made.cert_pem.write_to_path(trusted)
    return certificate, key, trusted
