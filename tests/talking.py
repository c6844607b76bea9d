"""Who answers, kept in a database without asking anybody: for pages that show it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from fence.core.rdm.controller import Controller
from fence.core.rdm.device_info import hear_out
from fence.core.rdm.packet import Identity
from fence.standins.rdm_devices import RdmLines, read_talk_fault
from fence.store.answers import Answers, AnswersKept
from fence.store.database import open_engine
from fence.store.shows import ShowStore, utc_now


def answered(database: Path, show_id: int = 1) -> None:
    """Keep what the devices of a show say: most as planned, one elsewhere, one gone, one that
    nobody planned."""
    engine = open_engine(database)
    show = ShowStore(engine).get(show_id).show
    lines = RdmLines(show, [read_talk_fault(show, "rack=Palm 1:2")])
    said = []
    for universe, line in sorted(lines.lines.items()):
        talk = Controller(line.exchange)
        said += [hear_out(talk, one, universe=universe) for one in lines.table(universe, anew=True)]
    first, _, third, *rest = said
    strange = replace(third, identity=Identity(0x7FF0, 9), label="", address=1)
    kept = (replace(first, address=77), strange, *rest)
    AnswersKept(engine, utc_now).keep(show_id, Answers(kept, asked=(1, 2, 3, 4)))
    engine.dispose()
