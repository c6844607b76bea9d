"""How long until it is dark: from All out, or the end of the server in each way, to the last frame
of a stream.

And how long sixty fixtures out of a heap take until they are set and heard back, and a change at
one until it is put back by the hold. Seconds; the yardstick in the same run is All out with
everything well.
"""

from __future__ import annotations

import os
import signal
import sys
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from time import monotonic, sleep

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import chromium  # noqa: E402
from tests.browser.test_talk_journeys import address_of, heap, heard  # noqa: E402
from tests.conftest import until  # noqa: E402
from tests.faults.conftest import Client, Served, start_serving  # noqa: E402
from tests.faults.test_sending import THERE, sending_to, wire  # noqa: E402

from fence.cli.serving import make_demo  # noqa: E402
from fence.standins.rig import ask  # noqa: E402
from fence.store.database import open_engine  # noqa: E402
from fence.store.shows import ShowStore  # noqa: E402

ALLOWED = 5.0

End = Callable[[Served, Client], object]
ENDS: dict[str, End] = {
    "All out": lambda served, client: client.post("/out"),
    "killed": lambda served, client: served.process.kill(),
    "SIGTERM": lambda served, client: served.process.terminate(),
    "stands still": lambda served, client: served.process.send_signal(signal.SIGSTOP),
}


def ends(folder: Path) -> bool:
    """Print how long each end takes; whether one is too long."""
    late, usual = False, 0.0
    for name, end in ENDS.items():
        path = folder / f"{name.replace(' ', '')}.db"
        store = ShowStore(open_engine(path))
        make_demo(store)
        store.engine.dispose()
        served = start_serving(path)
        try:
            with wire(THERE) as found:
                client = served.client()
                sending_to(client, THERE)
                until(lambda found=found: len(found.frames) > 100, "it sends")
                begin = monotonic()
                end(served, client)
                until(
                    lambda found=found: found.frames[-1][1].ends and found.silent_for(1),
                    "it is dark",
                )
                spent = found.frames[-1][0] - begin
            usual = usual or spent
            late = late or spent > ALLOWED
            print(
                f"{name:13} {spent:.2f} s until the last frame ({spent / usual:.0f} times All out)",
                flush=True,
            )
        finally:
            os.kill(served.process.pid, signal.SIGCONT)
            served.end()
    return late


def talks(folder: Path) -> None:
    """Print how long a heap takes, and a change until it is put back."""
    with chromium() as driver, heap(driver, folder) as (page, bind, port):
        page.open("/shows/1/rdm")
        begin = monotonic()
        page.click("#ask")
        page.sees("60 devices answered")
        page.click("#speak-first")
        page.sees("60 new fixtures")
        page.click("#apply")
        page.sees("60 of 60 devices set and heard back")
        print(
            f"sixty at 1    {monotonic() - begin:.1f} s until all are planned, set and heard back",
            flush=True,
        )
        page.open("/shows/1/rdm/hold")
        page.click("#hold")
        page.sees("60 devices held")
        one = next(said for said in heard(bind) if said.model == "Caw")
        ask(bind, port, touch={"fixture": one.identity.device, "address": 480})
        begin = monotonic()
        while address_of(bind, one) != one.address:
            sleep(0.05)
        print(
            f"a change      {monotonic() - begin:.1f} s until the hold has put it back", flush=True
        )


def main() -> None:
    """Print the figures; end with 1 where it stays lit for too long."""
    with TemporaryDirectory() as name:
        late = ends(Path(name))
        talks(Path(name))
    sys.exit(1 if late else 0)


if __name__ == "__main__":
    main()
