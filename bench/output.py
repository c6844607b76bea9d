"""64 universes at 44 frames a second for ten seconds (within 5 % allowed), by the process that
sends, pages in use.

Its share of a processor is measured from outside (half of one allowed).
"""

from __future__ import annotations

import os
import socket
import threading
import time
from pathlib import Path
from tempfile import TemporaryDirectory

from fence.cli.serving import make_demo
from fence.core.model.box import Protocol
from fence.web import create_app
from fence.wire import sacn
from fence.wire.output import RATE, Way
from fence.work.sender import Sender

UNIVERSES, SECONDS, THERE = 64, 10.0, "127.0.0.91"


def main() -> None:
    """Print the figures."""
    with TemporaryDirectory() as folder:
        database = Path(folder) / "bench.db"
        app = create_app(database)
        make_demo(app.extensions["fence_pages"].store)
        sender = Sender(database, lambda show_id, words: None)
        counts, done = dict.fromkeys(range(1, UNIVERSES + 1), 0), threading.Event()
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as there:
            there.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4_000_000)
            there.bind((THERE, sacn.PORT))
            there.settimeout(0.1)

            def count() -> None:
                while not done.is_set():
                    try:
                        data = there.recv(700)
                    except OSError:
                        continue
                    counts[data[113] * 256 + data[114]] += 1

            thread = threading.Thread(target=count, daemon=True)
            thread.start()
            ways = [Way(u, Protocol.SACN, THERE, u) for u in counts]
            sender.send(1, "bench", ways, {u: bytes([u]) * 512 for u in counts})
            while min(counts.values()) < RATE:
                time.sleep(0.05)
            process = sender._process
            assert process is not None
            before, used, begin = dict(counts), cpu_of(process.pid), time.monotonic()
            client, pages = app.test_client(), 0
            while time.monotonic() - begin < SECONDS:
                assert client.get("/shows/2/prove").status_code == 200
                pages += 1
                time.sleep(0.2)
            took, share = time.monotonic() - begin, cpu_of(process.pid) - used
            rates = [(counts[u] - before[u]) / took for u in counts]
            sender.out()
            done.set()
            thread.join(2)
        print(
            f"{UNIVERSES} universes: {min(rates):.1f} to {max(rates):.1f} frames a second ({RATE} "
            "wanted, 5 % allowed)"
        )
        print(f"{100 * share / took:.0f} % of a processor (50 allowed); {pages} pages meanwhile")
        app.extensions["fence_pages"].store.engine.dispose()


def cpu_of(pid: int) -> float:
    """Seconds of a processor that a process has used."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


if __name__ == "__main__":
    main()
