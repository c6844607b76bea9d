"""A gate between a browser and Fence, on loopback: it can be shut, and it can lose an answer on its
way."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress


class Gate:
    """Listens on ``port`` and passes everything on to ``target`` while it is open."""

    def __init__(self, target: int) -> None:
        self.target = target
        self.open = True
        self.lose: str = ""
        """Words of a request whose answer is lost; used up by the first that has them."""
        self.lost = 0
        self._listening = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._listening.getsockname()[1])
        self._ended = False
        self._pairs: list[socket.socket] = []
        self._thread = threading.Thread(target=self._listen, daemon=True)
        self._thread.start()

    @property
    def base(self) -> str:
        """Where a browser finds Fence through this gate."""
        return f"http://127.0.0.1:{self.port}"

    def shut(self) -> None:
        """Let nothing through, and cut what is under way."""
        self.open = False
        for one in list(self._pairs):
            with suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)

    def end(self) -> None:
        """Close it for good."""
        self._ended = True
        self.shut()
        with suppress(OSError):
            self._listening.shutdown(socket.SHUT_RDWR)
        self._listening.close()
        self._thread.join(timeout=5)

    def _listen(self) -> None:
        while not self._ended:
            try:
                browser, _ = self._listening.accept()
            except OSError:
                return
            threading.Thread(target=self._pass, args=(browser,), daemon=True).start()

    def _pass(self, browser: socket.socket) -> None:
        with browser:
            if not self.open:
                return
            try:
                server = socket.create_connection(("127.0.0.1", self.target), timeout=20)
            except OSError:
                return
            with server:
                self._pairs += [browser, server]
                losing = threading.Event()
                back = threading.Thread(
                    target=self._back, args=(server, browser, losing), daemon=True
                )
                back.start()
                with suppress(OSError):
                    while self.open and (data := browser.recv(65536)):
                        if self.lose and self.lose.encode() in data:
                            self.lose = ""
                            losing.set()
                        server.sendall(data)
                with suppress(OSError):
                    server.shutdown(socket.SHUT_WR)
                back.join(timeout=10)

    def _back(self, server: socket.socket, browser: socket.socket, losing: threading.Event) -> None:
        with suppress(OSError):
            while self.open and (data := server.recv(65536)):
                if losing.is_set():
                    self.lost += 1
                    break
                browser.sendall(data)
        with suppress(OSError):
            browser.shutdown(socket.SHUT_RDWR)


@contextmanager
def gate(target: int) -> Iterator[Gate]:
    """A gate that is closed in the end."""
    made = Gate(target)
    try:
        yield made
    finally:
        made.end()
