"""Eight browsers save in one show for half a minute, each on its own fixture, over real
connections.

Nobody may be asked, and every answered step must be in the rows, the log and the export.
"""

from __future__ import annotations

import csv
import io
import re
import subprocess
import sys
import threading
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from time import monotonic

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.faults.conftest import COMMAND, Client, free_port
from tests.rigs import rig

from fence.store.database import open_engine
from fence.store.shows import ShowStore

WRITERS, SECONDS = 8, 30


def write(client: Client, show: int, who: int, answers: dict[int, list[int]]) -> None:
    """Move a fixture to and fro by one slot until the time is up, each time from the page as it was
    seen before."""
    end = monotonic() + SECONDS
    while monotonic() < end:
        seen = re.search(
            r'name="revision" value="(\d+)"', client.get(f"/shows/{show}/address?u={who}")[1]
        )
        assert seen
        by = 1 if len(answers[who]) % 2 == 0 else -1
        answers[who].append(
            client.post(
                f"/shows/{show}/address/nudge", fixture=who, by=by, u=who, revision=seen[1]
            )[0]
        )


def main() -> None:
    with TemporaryDirectory() as folder:
        path, port = Path(folder) / "fence.db", free_port()
        store = ShowStore(open_engine(path))
        rows = rig(*((f"F{n}", 5, n, 100) for n in range(1, WRITERS + 1)))
        show = store.create(replace(rows, name="Writers"), who="bench").id
        store.engine.dispose()
        command = [*COMMAND, "serve", "--db", str(path), "--port", str(port)]
        with subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        ) as server:
            assert server.stdout is not None
            server.stdout.readline()
            answers: dict[int, list[int]] = {who: [] for who in range(1, WRITERS + 1)}
            threads = [
                threading.Thread(target=write, args=(Client(port), show, who, answers))
                for who in answers
            ]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            exported = Client(port).get(f"/shows/{show}/export.csv")[1]
            server.terminate()
        store = ShowStore(open_engine(path))
        saved = store.get(show)
        steps = sum(entry.kind == "edit" for entry in store.history(show, most=1_000_000))
        store.engine.dispose()
    given = [status for statuses in answers.values() for status in statuses]
    wanted = [100 + len(answers[who]) % 2 for who in sorted(answers)]
    print(
        f"{WRITERS} writers, {SECONDS} s: {len(given)} steps, {given.count(302)} saved, "
        f"{given.count(409)} conflicts"
    )
    print(f"  in the log {steps}, revision {saved.revision}")
    print(f"  rows as answered: {[fixture.start for fixture in saved.show.fixtures] == wanted}")
    starts = [int(row["address"]) for row in csv.DictReader(io.StringIO(exported))]
    print(f"  export as answered: {starts == wanted}")


if __name__ == "__main__":
    main()
