"""The server around the application, with limits of its own, and an end that finishes what was
begun.

Hypercorn takes connections, encrypted or not: handshakes, heads and bodies are waited for in its
loop and hold nobody up. Only a request that has come in whole is given to one of a few threads, and
its answer is sent by the loop again, so that no thread ever waits for somebody at the other end.
"""

from __future__ import annotations

import asyncio
import logging
import socket
import ssl
import sys
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from contextlib import suppress
from pathlib import Path
from time import monotonic
from typing import Any

from a2wsgi import WSGIMiddleware
from flask import Flask
from flask.sessions import SecureCookieSessionInterface
from hypercorn.asyncio import serve
from hypercorn.config import Config
from itsdangerous import BadSignature
from werkzeug.http import parse_cookie

LARGEST_BODY = 20 * 1024 * 1024
"""Bytes of a request."""
LARGEST_AT_THE_DOOR = 16 * 1024
"""Bytes of what somebody may send who is not in yet: a name, a password, a code."""
LARGEST_HEAD = 64 * 1024
MOST_WAITING = 256 * 1024 * 1024
"""Bytes of requests that have come in and are not answered yet, all together."""
SMALL = 64 * 1024
"""Bytes that are always taken in: a form, whatever else comes."""
WORKERS = 8
"""Threads that answer."""
SWITCH_SECONDS = 0.001
"""How long a thread that reckons keeps the others from running: a short page is not to wait for
long ones."""
BACKLOG = 256
"""Connections that wait to be taken; the loop takes as many at once before it turns to others."""
HEAD_SECONDS = 4.0
"""How long a handshake may take, the head of a request, and the pause before the next one on a
connection. Pages ask every five seconds, so none of them asks at the moment at which its connection
is closed."""
GRACE_SECONDS, SLOWEST = 5.0, 10_000
"""How long a body may take to come, or an answer to be taken: so many seconds, and one more for so
many bytes."""
UNREAD_MILLISECONDS = 20_000
"""After so long without a byte being taken at the other end the system gives the connection up."""
DRAIN_SECONDS = 3.5
"""How long requests in flight may take once the server is told to end."""

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
log = logging.getLogger(__name__)


class Server:
    """Listens from the moment it is made, on ``port``; ``run`` serves, over HTTPS with a
    certificate and its key.

    Raises ``OSError`` where the place is taken, or certificate and key do not make a pair.
    """

    def __init__(
        self,
        app: Flask,
        host: str,
        port: int,
        *,
        certificate: Path | None = None,
        key: Path | None = None,
    ) -> None:
        if certificate is not None and key is not None:
            _check_pair(certificate, key)
        listener = _listening(host, port)
        self.port = int(listener.getsockname()[1])
        self._config = _settings(listener, certificate, key)
        self._entrance = Entrance(app)
        self._stop = threading.Event()
        self._loop: asyncio.AbstractEventLoop | None = None

    def run(self) -> None:
        """Serve until ``stop``; then take no more connections and finish the requests in flight."""
        sys.setswitchinterval(SWITCH_SECONDS)
        asyncio.run(self._serve())

    async def _serve(self) -> None:
        self._loop, ended = asyncio.get_running_loop(), asyncio.Event()
        self._ended = ended
        if self._stop.is_set():
            ended.set()
        await serve(self._entrance, self._config, shutdown_trigger=ended.wait)  # type: ignore[arg-type]

    def stop(self, *_signal: object) -> None:
        """Let ``run`` come to its end; from another thread, or as the handler of a signal."""
        self._stop.set()
        if self._loop is not None:
            with suppress(RuntimeError):  # it has ended by itself
                self._loop.call_soon_threadsafe(self._ended.set)

    @property
    def stuck(self) -> int:
        """Requests that are still being answered: after ``run`` those that did not come to an end
        in time."""
        return self._entrance.answering


def _check_pair(certificate: Path, key: Path) -> None:
    try:
        ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(certificate, key)
    except ssl.SSLError as error:
        raise OSError(
            f"{certificate} and {key} do not make a pair: {error.reason or error}"
        ) from error


def _listening(host: str, port: int) -> socket.socket:
    """A socket at that place, for the first address that the host has."""
    family, _, _, _, address = socket.getaddrinfo(host or "0.0.0.0", port, type=socket.SOCK_STREAM)[
        0
    ]
    made = socket.create_server(address[:2], family=family, backlog=BACKLOG)
    if hasattr(socket, "TCP_USER_TIMEOUT"):  # taken over by every connection
        made.setsockopt(socket.IPPROTO_TCP, socket.TCP_USER_TIMEOUT, UNREAD_MILLISECONDS)
    return made


def _settings(listener: socket.socket, certificate: Path | None, key: Path | None) -> Config:
    config = Config()
    config.bind = [f"fd://{listener.detach()}"]
    config.backlog = BACKLOG
    config.alpn_protocols = ["http/1.1"]
    config.keep_alive_timeout = config.ssl_handshake_timeout = HEAD_SECONDS
    config.h11_max_incomplete_size = LARGEST_HEAD
    config.graceful_timeout = DRAIN_SECONDS
    config.include_server_header = False
    config.loglevel = "WARNING"
    if certificate is not None and key is not None:
        config.certfile, config.keyfile = str(certificate), str(key)
    return config


class Entrance:
    """Takes in whole requests within limits of size and time, and gives them to the application's
    threads."""

    def __init__(self, app: Flask) -> None:
        self._app = app
        self._application = WSGIMiddleware(self._in_one, workers=WORKERS, send_queue_size=0)
        self._held = 0
        self._answering: set[int] = set()

    @property
    def answering(self) -> int:
        """How many threads are at an answer."""
        return len(self._answering)

    def _in_one(self, environ: Any, start_response: Any) -> list[bytes]:
        """The application with each answer in one piece: every piece is handed to the loop and
        waited for."""
        me = threading.get_ident()
        self._answering.add(me)
        try:
            pieces = self._app.wsgi_app(environ, start_response)
            try:
                return [b"".join(pieces)]
            finally:
                if hasattr(pieces, "close"):
                    pieces.close()
        finally:
            self._answering.discard(me)

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        """One request, as ASGI has it."""
        if scope["type"] != "http":
            await self._application(scope, receive, send)  # type: ignore[arg-type]
            return
        most = LARGEST_BODY if self._is_in(scope) else LARGEST_AT_THE_DOOR
        body = bytearray()
        try:
            refused = await self._take_in(scope, receive, body, most)
            if refused:
                await _answer(send, *refused)
                return
            whole, again, out = _whole(scope, body), _replay(bytes(body), receive), _in_time(send)
            await self._application(whole, again, out)  # type: ignore[arg-type]
        except TimeoutError:
            log.info("Somebody did not take the answer to %s in time.", scope["path"])
        finally:
            self._held -= len(body)

    def _is_in(self, scope: Message) -> bool:
        """Whether it comes from somebody who is, or was, logged in, and does not go to the door. It
        is for the pages to look up whether that log-in still holds."""
        if not self._app.config["GUARDED"]:
            return True
        if scope["path"].startswith(("/log-in", "/join")):
            return False
        name = str(self._app.config["SESSION_COOKIE_NAME"])
        told = b"; ".join(value for header, value in scope["headers"] if header == b"cookie")
        signer = SecureCookieSessionInterface().get_signing_serializer(self._app)
        try:
            return signer is not None and "_user_id" in signer.loads(
                parse_cookie(told.decode("latin-1"))[name]
            )
        except (BadSignature, KeyError):
            return False

    async def _take_in(
        self, scope: Message, receive: Receive, body: bytearray, most: int
    ) -> tuple[int, str] | None:
        """Read the body; gives a status and words where it is refused. What it says of its own
        length is not waited for where that is too much already."""
        announced = next(
            (value for name, value in scope["headers"] if name == b"content-length"), b"0"
        )
        if not announced.isdigit() or int(announced[:20]) > most:
            return 413, f"This is too large to be sent. Use {_in_words(most)}."
        end, more = monotonic() + GRACE_SECONDS, True
        while more:
            try:
                message = await asyncio.wait_for(receive(), end + len(body) / SLOWEST - monotonic())
            except TimeoutError:
                return 408, "This came too slowly: send it again."
            if message["type"] == "http.disconnect":
                return 400, "This did not come whole."
            piece, more = message.get("body", b""), message.get("more_body", False)
            body += piece
            self._held += len(piece)
            if len(body) > most:
                return 413, f"This is too large to be sent. Use {_in_words(most)}."
            if len(body) > SMALL and self._held > MOST_WAITING:
                return 503, "Too much comes in at once: send it again in a moment."
        return None


def _in_words(most: int) -> str:
    return f"up to {most // 2**20} MB" if most >= 2**20 else f"up to {most // 2**10} kB"


def _whole(scope: Message, body: bytearray) -> Message:
    """The request with the length that its body has, also where that came in pieces."""
    headers = [
        pair
        for pair in scope["headers"]
        if pair[0] not in (b"content-length", b"transfer-encoding")
    ]
    return {**scope, "headers": [*headers, (b"content-length", str(len(body)).encode())]}


def _replay(body: bytes, receive: Receive) -> Receive:
    """Give the body that has come, and after it whatever comes."""
    waiting = [{"type": "http.request", "body": body, "more_body": False}]

    async def next_message() -> Message:
        return waiting.pop() if waiting else await receive()

    return next_message


def _in_time(send: Send) -> Send:
    """Send, but wait for nobody who takes it too slowly."""

    async def sent(message: Message) -> None:
        await asyncio.wait_for(
            send(message), GRACE_SECONDS + len(message.get("body", b"")) / SLOWEST
        )

    return sent


async def _answer(send: Send, status: int, words: str) -> None:
    """A short answer without a page."""
    told = words.encode()
    headers = [
        (b"content-type", b"text/plain; charset=utf-8"),
        (b"content-length", str(len(told)).encode()),
        (b"connection", b"close"),
    ]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": told})
