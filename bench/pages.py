"""How long every page takes at the server, and how large it is: of a show of 20,000 fixtures beside
one of 500, in this one run.

A page is asked for with nobody in between; the first time, which works out what is kept of a show
that never changes, is not counted. Wanted are 200 kB, and pages that do not grow with the show.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.browser.screens import SCREENS

from fence.web import create_app
from rigs import clashing_rig

SHOWS = ((500, 8), (20_000, 400))
ROUNDS = 3
MOST_BYTES = 200_000


def paths() -> list[str]:
    """Every kind of page, once."""
    found = (re.sub(r"/shows/\d+", "/shows/1", path.split("#")[0]) for path, _ in SCREENS)
    return list(dict.fromkeys(found))


def measured(fixtures: int, universes: int) -> dict[str, tuple[float, int]]:
    """Milliseconds and bytes of each page of such a show."""
    found = {}
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db")
        app.extensions["fence_pages"].store.create(clashing_rig(fixtures, universes), who="bench")
        client = app.test_client()
        for path in paths():
            client.get(path)
            times = []
            for _ in range(ROUNDS):
                start = perf_counter()
                size = len(client.get(path).data)
                times.append(perf_counter() - start)
            found[path] = min(times) * 1000, size
        app.extensions["fence_sender"].close()
        app.extensions["fence_rigs"].end()
    return found


def main() -> None:
    small, large = (measured(*show) for show in SHOWS)
    print(f"{SHOWS[0][0]} and {SHOWS[1][0]:,} fixtures: ms, ms, times, kB")
    for path, (taken, size) in sorted(large.items(), key=lambda one: -one[1][0])[:30]:
        before = small[path][0]
        mark = "" if size <= MOST_BYTES else "  over 200 kB"
        print(
            f"{before:6.0f} {taken:6.0f} {taken / before:6.1f} {size // 1000:5d}  {path[:60]}{mark}"
        )


if __name__ == "__main__":
    main()
