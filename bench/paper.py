"""How long the documents of a show of 200 fixtures take, each beside the list by fixture, in this
one run. Wanted is half a second for the longest of them."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

from fence.web import create_app
from rigs import clashing_rig

FIXTURES, UNIVERSES = 200, 8
ROUNDS = 5
DOCUMENTS = {
    "list by fixture": "/shows/1/lists/list.pdf",
    "list by channel": "/shows/1/lists/list.pdf?by=channel",
    "sheets to tick": "/shows/1/set/sheets.pdf",
    "labels": "/shows/1/set/labels.pdf",
    "handover": "/shows/1/log/handover.pdf",
}


def main() -> None:
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db")
        app.extensions["fence_pages"].store.create(clashing_rig(FIXTURES, UNIVERSES), who="bench")
        client = app.test_client()

        def seconds(path: str) -> float:
            start = perf_counter()
            assert client.get(path).status_code == 200
            return perf_counter() - start

        taken: dict[str, list[float]] = {}
        for _ in range(ROUNDS):
            for name, path in DOCUMENTS.items():
                taken.setdefault(name, []).append(seconds(path))
        app.extensions["fence_sender"].close()
        app.extensions["fence_rigs"].end()
    print(f"{FIXTURES} fixtures, the quickest of {ROUNDS}:")
    first = min(next(iter(taken.values())))
    for name, times in taken.items():
        print(
            f"  {name:16}{min(times) * 1000:5.0f} ms   {min(times) / first:4.1f} lists by fixture"
        )


if __name__ == "__main__":
    main()
