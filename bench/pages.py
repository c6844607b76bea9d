"""How long every page takes at the server, and how large it is: of a show of 20,000 fixtures beside
one of 500, in this one run.

A page is asked for with nobody in between: ``first`` after a change of the show, when nothing has
been worked out of it yet, and then again, as it is while a show is looked at, a preview taken or
gone back to. Wanted are 200 kB, and pages that do not grow with the show.
"""

from __future__ import annotations

import gc
import re
import sys
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter
from typing import NamedTuple

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.browser.screens import SCREENS

from fence.cli.serving import SELDOM
from fence.web import create_app
from rigs import clashing_rig

SHOWS = ((500, 8), (20_000, 400))
ROUNDS = 3
MOST_BYTES = 200_000


def paths() -> list[str]:
    """Every kind of page, once."""
    found = (re.sub(r"/shows/\d+", "/shows/1", path.split("#")[0]) for path, _ in SCREENS)
    return list(dict.fromkeys(found))


class Taken(NamedTuple):
    """Milliseconds after a change and then, and bytes of a page."""

    first: float
    again: float
    size: int


def measured(fixtures: int, universes: int) -> dict[str, Taken]:
    """How long each page of such a show takes, and how large it is."""
    found = {}
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db")
        store = app.extensions["fence_pages"].store
        store.create(clashing_rig(fixtures, universes), who="bench")
        client = app.test_client()

        def taken(path: str) -> tuple[float, int]:
            start = perf_counter()
            size = len(client.get(path).data)
            return (perf_counter() - start) * 1000, size

        for path in paths():
            client.get(path)  # compiles the template
            saved = store.get(1)
            store.save(saved, replace(saved.show, note=f"Before {path}"), who="bench")
            client.get("/shows/1")  # the rules have run, as after any change
            first, size = taken(path)
            found[path] = Taken(first, min(taken(path)[0] for _ in range(ROUNDS)), size)
        app.extensions["fence_sender"].close()
        app.extensions["fence_rigs"].end()
    return found


def main() -> None:
    gc.set_threshold(*SELDOM)  # as it is served
    small, large = (measured(*show) for show in SHOWS)
    print(f"{SHOWS[0][0]} and {SHOWS[1][0]:,} fixtures: ms first, again; ms first, again; kB")
    for path, page in sorted(large.items(), key=lambda one: -one[1].first)[:30]:
        few = small[path]
        mark = "" if page.size <= MOST_BYTES else "  over 200 kB"
        print(
            f"{few.first:6.0f} {few.again:6.0f} {page.first:6.0f} {page.again:6.0f} "
            f"{page.size // 1000:5d}  {path[:60]}{mark}"
        )


if __name__ == "__main__":
    main()
