"""What Fence has heard already becomes evidence, and nothing beyond it."""

from __future__ import annotations

from dataclasses import replace

from fence.core.model.box import Use
from fence.core.model.network import given_by, number_on
from fence.core.model.show import Show
from fence.core.network.found import FoundBox, FoundPort
from fence.core.rdm.controller import Controller
from fence.core.rdm.device_info import DeviceInfo, hear_out
from fence.core.rdm.device_matching import match
from fence.core.troubleshooting.evidence import Answer, Kind
from fence.core.troubleshooting.foresight import Foresight
from fence.core.troubleshooting.heard import MOST_TAKEN, of_nodes, of_rdm
from fence.demo import clean_show
from fence.standins.rdm_devices import RdmLines


def all_said(show: Show) -> list[DeviceInfo]:
    """What all that speak RDM say when they are asked."""
    lines, said = RdmLines(show, []), []
    for universe, line in sorted(lines.lines.items()):
        talk = Controller(line.exchange)
        said += [hear_out(talk, one, universe=universe) for one in lines.table(universe, anew=True)]
    return said


def test_who_answers_over_rdm_and_who_does_not() -> None:
    """One that should answer and does not is told first, those on its line after it; nothing is
    said of who cannot be asked."""
    show = clean_show()
    said = all_said(show)
    lost = next(one for one in said if one.universe == 1)
    found = match(show, [one for one in said if one is not lost])
    told = of_rdm(show, found)
    silent = [one for one in told if one.answer is Answer.SILENT]
    assert silent
    assert told[: len(silent)] == silent
    foresight = Foresight(show)
    assert all(foresight.can_ask(show.fixture(one.check.fixture)) for one in told)
    assert len(told) <= MOST_TAKEN
    lines = {line.id for one in silent for line, _ in foresight.ways[one.check.fixture]}
    near = [
        any(line.id in lines for line, _ in foresight.ways[one.check.fixture])
        for one in told[len(silent) :]
    ]
    assert near == sorted(near, reverse=True)
    everybody = of_rdm(show, match(show, said))
    assert all(one.answer is Answer.ANSWERS for one in everybody)


def test_what_nodes_say() -> None:
    """Each port that should give out a universe, the wrong ones first; a node that tells nothing of
    its universes, or is not planned, tells nothing here."""
    show = clean_show()
    box = next(box for box in show.boxes if box.name == "palm dock")
    ports = [
        FoundPort(port.number, Use.OUT, number_on(box, given))
        for port in box.outputs
        if (given := given_by(box, port)) is not None
    ]
    node = FoundBox(box.ip, box.name, ports=tuple(ports))
    told = of_nodes(show, [node, FoundBox("10.9.9.9", "a stranger", ports=tuple(ports))])
    assert [one.check.port for one in told] == [port.number for port in ports]
    assert all(one.check.kind is Kind.NODE and one.check.box == "palm dock" for one in told)
    assert [one.value for one in told] == [str(port.says) for port in ports]
    off = replace(ports[1], use=Use.OFF)
    wrong = replace(ports[2], says=ports[2].says + 5)
    told = of_nodes(show, [replace(node, ports=(ports[0], off, wrong, ports[3]))])
    assert [(one.check.port, one.answer) for one in told[:2]] == [
        (off.number, Answer.OFF),
        (wrong.number, Answer.SAYS),
    ]
    assert told[1].value == str(wrong.says)
    assert of_nodes(show, [replace(node, ports=())]) == []
