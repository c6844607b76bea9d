"""The servers around the application, with limits of their own, and an end that finishes what was begun.

Waitress serves; it speaks no TLS, so that over HTTPS it is cheroot.
"""

from __future__ import annotations

import ssl
from pathlib import Path
from threading import Thread
from time import monotonic

from cheroot.ssl.builtin import BuiltinSSLAdapter
from cheroot.wsgi import Server as Cheroot
from flask import Flask
from waitress import create_server, wasyncore
from waitress.channel import HTTPChannel
from waitress.server import BaseWSGIServer

LARGEST_BODY = 20 * 1024 * 1024
"""Bytes of a request; the server refuses larger ones before it has taken them in."""

CONNECTIONS = 1000
"""Open connections. Browsers keep idle ones, so there must be far more of them than people."""

IDLE_SECONDS = 60
DRAIN_SECONDS = 10
"""How long requests in flight may take once the server is told to end."""


class Server:
    """Listens from the moment it is made, on ``port``; ``run`` serves. Raises ``OSError`` where the place is taken."""

    def __init__(self, app: Flask, host: str, port: int) -> None:
        self.sockets: dict[int, wasyncore.dispatcher] = {}
        self.stopping = False
        self.first = create_server(
            app,
            map=self.sockets,
            host=host,
            port=port,
            threads=8,
            connection_limit=CONNECTIONS,
            channel_timeout=IDLE_SECONDS,
            max_request_body_size=LARGEST_BODY,
            asyncore_use_poll=True,
            ident="Fence",
        )
        self.port = int(self._listeners()[0].effective_port)

    def run(self) -> None:
        """Serve until Ctrl+C or ``stop``; then take no more connections and finish the requests in flight."""
        try:
            while not self.stopping:
                self._turn(1.0)
        except KeyboardInterrupt:
            pass
        finally:
            self._drain()

    def stop(self, *_signal: object) -> None:
        """Let ``run`` come to its end; from another thread, or as the handler of a signal."""
        self.stopping = True
        for listener in self._listeners():
            listener.pull_trigger()  # so that the loop wakes at once

    def _turn(self, seconds: float) -> None:
        wasyncore.loop(timeout=seconds, use_poll=True, map=self.sockets, count=1)

    def _listeners(self) -> list[BaseWSGIServer]:
        return [found for found in list(self.sockets.values()) if isinstance(found, BaseWSGIServer)]

    def _busy(self) -> bool:
        """Whether a request is being read, computed or sent."""
        channels = [found for found in list(self.sockets.values()) if isinstance(found, HTTPChannel)]
        return any(channel.requests or channel.request or channel.total_outbufs_len for channel in channels)

    def _drain(self) -> None:
        for listener in self._listeners():
            listener.accepting = False
        end = monotonic() + DRAIN_SECONDS
        while self._busy() and monotonic() < end:
            self._turn(0.05)
        self.first.task_dispatcher.shutdown(timeout=1)
        wasyncore.close_all(self.sockets, ignore_all=True)


class SecureServer:
    """The same over HTTPS, with a certificate and its key. Raises ``OSError`` where the place is taken or they do not
    make a pair."""

    def __init__(self, app: Flask, host: str, port: int, certificate: Path, key: Path) -> None:
        try:
            adapter = BuiltinSSLAdapter(str(certificate), str(key))
        except ssl.SSLError as error:
            raise OSError(f"{certificate} and {key} do not make a pair: {error.reason or error}") from error
        adapter.context.minimum_version = ssl.TLSVersion.TLSv1_2
        self.cheroot = Cheroot(
            (host, port),
            app,
            numthreads=8,
            max=16,
            request_queue_size=128,
            timeout=IDLE_SECONDS,
            shutdown_timeout=DRAIN_SECONDS,
            server_name="Fence",
        )
        self.cheroot.ssl_adapter = adapter
        self.cheroot.max_request_body_size = LARGEST_BODY
        self.cheroot.max_request_header_size = 64 * 1024
        self.stopping: Thread | None = None
        self.cheroot.prepare()
        self.port = int(self.cheroot.bind_addr[1])

    def run(self) -> None:
        """Serve until Ctrl+C or ``stop``."""
        try:
            self.cheroot.serve()
        except KeyboardInterrupt:
            self.cheroot.stop()
        if self.stopping is not None:
            self.stopping.join()

    def stop(self, *_signal: object) -> None:
        """Let ``run`` come to its end; from another thread, or as the handler of a signal."""
        if self.stopping is None:
            self.stopping = Thread(target=self.cheroot.stop)  # it waits for the loop that a signal interrupts
            self.stopping.start()
