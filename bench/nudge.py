"""How a nudge grows with the show: 2,000 fixtures in 64 universes against the demo show.

Measured at the server, with Flask's client and a real database on disk. At most three times is
asked for.
"""

from __future__ import annotations

from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

from flask.testing import FlaskClient

from fence.demo import demo_show
from fence.store.shows import ShowStore
from fence.web import create_app
from rigs import large_show

NUDGES = 60


def nudges(client: FlaskClient, store: ShowStore, show_id: int, fixture: int) -> float:
    """The median seconds of a nudge to and fro, as the page asks for it."""
    times = []
    for step in range(NUDGES):
        revision = store.get(show_id).revision
        data = {"revision": revision, "fixture": fixture, "by": 1 if step % 2 == 0 else -1, "u": 2}
        start = perf_counter()
        answer = client.post(
            f"/shows/{show_id}/address/nudge", data=data, headers={"HX-Request": "true"}
        )
        times.append(perf_counter() - start)
        assert answer.status_code == 200, answer.text
    return median(times[10:])


def main() -> None:
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db", {"WTF_CSRF_ENABLED": False})
        store: ShowStore = app.extensions["fence_pages"].store
        demo, large = (
            store.create(demo_show(), who="bench"),
            store.create(large_show(), who="bench"),
        )
        client = app.test_client()
        small = nudges(client, store, demo.id, 28)
        big = nudges(client, store, large.id, large.show.fixtures[40].id)
        print(
            f"nudge: demo show {small * 1000:.1f} ms, 2,000 fixtures in 64 universes "
            f"{big * 1000:.1f} ms"
        )
        print(f"  ratio {big / small:.2f} (at most 3)")
        sizes = [len(client.get(f"/shows/{saved.id}/address?u=2").data) for saved in (demo, large)]
        print(
            f"  Address page of universe 2: {sizes[0] / 1000:.0f} kB and {sizes[1] / 1000:.0f} kB"
        )
        store.engine.dispose()


if __name__ == "__main__":
    main()
