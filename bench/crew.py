"""Fifty clients that watch the Set step of one show while others mark: server time of one update (5
ms allowed).

Each client is logged in and asks as its page does. After every tenth update somebody marks a
fixture, so that what was read of the log is read anew. The yardstick in the same run is the page of
the walk itself.
"""

from __future__ import annotations

from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.store.people import Role
from fence.web import create_app

CLIENTS, ROUNDS, FIXTURES, ALLOWED = 50, 10, 400, 5.0
LAMP = Profile("lamp", "Trowel", "Lamp", (Mode("m", (Part(2),)),))


def main() -> None:
    """Print the figures."""
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "bench.db", names=("fence.test",))
        pages = app.extensions["fence_pages"]
        show = edits.add_fixtures(
            Show("Crew"), edits.AddRun(LAMP, "m", FIXTURES, "L 1", None, "P", 2, Address(1, 1))
        )
        saved = pages.store.create(show, who="Bench")
        clients = []
        for number in range(CLIENTS):
            if number % 10 == 0:
                code = pages.people.invite(Role.CREW, hours=1, by="")
                crew = pages.people.join(code, f"Crew {number}", "a long night")
            client = app.test_client()
            with client.session_transaction() as session:
                session["_user_id"] = pages.people.begin(crew.id, "a phone")
            clients.append(client)
        walk = timed(clients[0], f"/shows/{saved.id}/set")
        taken = []
        for turn in range(ROUNDS):
            for place, client in enumerate(clients):
                number = (turn * CLIENTS + place) % FIXTURES + 1
                taken.append(
                    timed(client, f"/shows/{saved.id}/set/here?fixture={number}&revision=1")
                )
                if place % 10 == 9:
                    saved = pages.store.save(
                        saved, edits.mark_set(saved.show, [number]), who="Crew", origin="Set"
                    )
        worst = sorted(taken)[int(len(taken) * 0.99)]
        print(
            f"an update for one of {CLIENTS} clients: median {median(taken):.1f} ms, 99 % within "
            f"{worst:.1f} ms"
        )
        print(
            f"the page of the walk in the same run: {walk:.1f} ms, {walk / median(taken):.0f} "
            "times as long"
        )
        assert median(taken) < ALLOWED, f"more than {ALLOWED} ms"
        app.extensions["fence_pages"].store.engine.dispose()


def timed(client: object, path: str) -> float:
    """Milliseconds of server time for one page."""
    begin = perf_counter()
    answer = client.get(path)  # type: ignore[attr-defined]
    assert answer.status_code == 200, answer.status_code
    return 1000 * (perf_counter() - begin)


if __name__ == "__main__":
    main()
