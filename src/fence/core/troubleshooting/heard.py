"""What Fence has heard already, as evidence: who answered over RDM, and what nodes say."""

from __future__ import annotations

from collections.abc import Sequence

from fence.core.model.box import Use
from fence.core.model.network import given_by
from fence.core.model.show import Show
from fence.core.network.found import FoundBox, FoundPort, compare
from fence.core.rdm.device_matching import Match
from fence.core.troubleshooting.evidence import Answer, Check, Evidence, Kind
from fence.core.troubleshooting.foresight import Foresight

MOST_TAKEN = 60
"""Pieces of evidence that are taken over at once: those that tell most come first."""


def of_rdm(show: Show, found: Match) -> list[Evidence]:
    """Who should have answered and did not, and who answered: first of the lines on which somebody
    is silent, since they tell most. Of whom no answer can be expected, nothing is said."""
    foresight = Foresight(show)
    silent = [
        one.fixture for one in found.missing if one.expected and foresight.can_ask(one.fixture)
    ]
    answering = [pair.fixture for pair in found.pairs if foresight.can_ask(pair.fixture)]
    suspect = {line.id for one in silent for line, _ in foresight.ways.get(one.id, ())}
    answering.sort(
        key=lambda one: not any(line.id in suspect for line, _ in foresight.ways.get(one.id, ()))
    )
    told = [Evidence(Check(Kind.RDM, one.id), Answer.SILENT) for one in silent]
    told += [Evidence(Check(Kind.RDM, one.id), Answer.ANSWERS) for one in answering]
    return told[:MOST_TAKEN]


def of_nodes(show: Show, found: Sequence[FoundBox]) -> list[Evidence]:
    """What each port that should give out a universe says, of the nodes that answered and told it:
    first those that say something else than is planned."""
    told: list[Evidence] = []
    for beside in compare(show, found):
        if beside.box is None or beside.found is None or not beside.found.tells:
            continue
        said = {port.number: port for port in beside.found.ports}
        mine = [
            _of_port(beside.box.name, port.number, said.get(port.number))
            for port in beside.box.outputs
            if given_by(beside.box, port) is not None
        ]
        wrong = set(beside.wrong_ports)
        told += sorted(mine, key=lambda one: one.check.port not in wrong)
    return told[:MOST_TAKEN]


def _of_port(name: str, number: int, said: FoundPort | None) -> Evidence:
    check = Check(Kind.NODE, box=name, port=number)
    if said is None or said.use is not Use.OUT:
        return Evidence(check, Answer.OFF)
    return Evidence(check, Answer.SAYS, str(said.says))
