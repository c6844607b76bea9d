"""The page of a log with 50,000 entries (200 ms of server time allowed), as it stands and narrowed
in four ways.

The yardstick in the same run is the same page of a log with 100 entries.
"""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

from sqlalchemy import insert, update

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.store.database import writing
from fence.store.shows import ShowStore
from fence.store.tables import LogFixtureRow, LogRow, ShowRow
from fence.web import create_app

ENTRIES, FIXTURES, TIMES = 50_000, 200, 9
LAMP = Profile("lamp", "Trowel", "Lamp", (Mode("m", (Part(2),)),))
NARROWED = {
    "all": "",
    "a fixture": "?fixture=L+7",
    "a person": "?who=Crew+3",
    "a day": "?day=2026-11-20",
    "words": "?words=to+U2+0",
}


def written(store: ShowStore, entries: int) -> int:
    """A show with so many steps on its log, written straight into the table; gives its id."""
    show = edits.add_fixtures(
        Show("Log"), edits.AddRun(LAMP, "m", FIXTURES, "L 1", None, "P", 1, Address(1, 1))
    )
    saved = store.create(show, who="Bench")
    begin = store.clock() - timedelta(days=30)
    rows = [
        {
            "show_id": saved.id,
            "revision": number,
            "at": begin + timedelta(seconds=50 * number),
            "who": f"Crew {number % 7}",
            "words": f"L {number % FIXTURES + 1} moved to U2 {number % 500:03d}",
            "kind": "edit",
            "state": "done",
            "difference": "{}",
            "origin": "Address",
            "note": "",
            "noted_by": "",
        }
        for number in range(2, entries + 1)
    ]
    with writing(store.engine) as session:
        ids = session.scalars(
            insert(LogRow).returning(LogRow.id, sort_by_parameter_order=True), rows
        ).all()
        about = [
            {"log_id": one, "fixture_id": place % FIXTURES + 1} for place, one in enumerate(ids, 2)
        ]
        session.execute(insert(LogFixtureRow), about)
        session.execute(update(ShowRow).where(ShowRow.id == saved.id).values(revision=entries))
    return saved.id


def main() -> None:
    """Print the figures."""
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db")
        store = app.extensions["fence_pages"].store
        long, short = written(store, ENTRIES), written(store, 100)
        client = app.test_client()
        for name, query in NARROWED.items():
            spent: dict[int, list[float]] = {long: [], short: []}
            for turn in range(TIMES + 1):
                for show_id, found in spent.items():
                    start = perf_counter()
                    answer = client.get(f"/shows/{show_id}/log{query}")
                    if turn:
                        found.append(perf_counter() - start)
                    assert answer.status_code == 200
            most, bare = median(spent[long]), median(spent[short])
            print(
                f"{name}: {most * 1000:.0f} ms (200 allowed), {most / bare:.1f} times that of 100 "
                "entries"
            )


if __name__ == "__main__":
    main()
