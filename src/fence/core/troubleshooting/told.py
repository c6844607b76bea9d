"""Causes, checks, answers and evidence in words, in the names of the rig."""

from __future__ import annotations

from collections.abc import Sequence

from fence.core.model.box import Box
from fence.core.model.line import Line
from fence.core.model.network import number_on
from fence.core.model.profile import SetterKind
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.model.wiring import name_of, wiring_of
from fence.core.simulation.faults import Fault, Trouble
from fence.core.troubleshooting.evidence import ANSWERS, Answer, Check, Evidence, Kind

ANSWER_WORDS = {
    Answer.RIGHT: "Right",
    Answer.DARK: "Dark",
    Answer.OTHER_COLOUR: "Another colour",
    Answer.ANOTHER: "Another one lights",
    Answer.OWN_PROGRAM: "It runs its own program",
    Answer.FLICKER: "It flickers",
    Answer.SIGNAL: "There is a signal",
    Answer.NO_SIGNAL: "No signal",
    Answer.OTHER_UNIVERSE: "Another universe",
    Answer.ERRORS: "Errors",
    Answer.ON: "It has power",
    Answer.OFF: "No power",
    Answer.SAYS: "It says",
    Answer.MODE: "Its mode is",
    Answer.YES: "Yes",
    Answer.NO: "No",
    Answer.ANSWERS: "It answers",
    Answer.SILENT: "Silent",
    Answer.SENDS: "It sends",
    Answer.BLACKOUT: "Blackout",
    Answer.HELPS: "It helps",
    Answer.NO_CHANGE: "No change",
}
OF_A_NODE = {Answer.OFF: "The port is off"}


def answer_words(kind: Kind, answer: Answer) -> str:
    """An answer as a button says it."""
    return (
        OF_A_NODE.get(answer, ANSWER_WORDS[answer]) if kind is Kind.NODE else ANSWER_WORDS[answer]
    )


def answers_of(kind: Kind) -> list[tuple[Answer, str]]:
    """The answers of a kind of check with their words."""
    return [(answer, answer_words(kind, answer)) for answer in ANSWERS[kind]]


def asks(show: Show, check: Check) -> str:
    """A check as what somebody is asked to do and to say."""
    fixture = show.fixture_by_id.get(check.fixture)
    who = whom(show, check)
    where = f", {fixture.position}" if fixture and fixture.position else ""
    profile = show.profile_of(fixture) if fixture else None
    match check.kind:
        case Kind.LOOK:
            at = fixture.planned_at if fixture else ""
            return f"Bring up {who} ({at}{where}) alone in open white. What do you see?"
        case Kind.POWER:
            return f"Does {who}{where} have power: a display that is lit, a fan, a lamp on it?"
        case Kind.DISPLAY:
            switches = profile is not None and profile.setter.kind is SetterKind.SWITCHES
            what = "the switches" if switches else "the display"
            return f"Read {what} of {who}{where}. Which address does it say, and which mode?"
        case Kind.LISTENS:
            needs = f" It needs: {profile.listens}." if profile and profile.listens else ""
            return f"Is {who}{where} set to listen to DMX?{needs}"
        case Kind.RDM:
            return f"Ask {who} over RDM. Does it answer?"
        case Kind.TESTER:
            return f"Plug the tester in at {who}. What does it read?"
        case Kind.SWAP:
            return f"Swap the cable run to {who} for one that is known to be good. Does it help?"
        case Kind.NODE:
            return f"Look at the screen of {check.box}. What does port {check.port} say?"
        case Kind.DESK:
            return "Look at the desk: grand master up, no blackout, the universe sent?"


def whom(show: Show, check: Check) -> str:
    """Whom or what a check is about; a fixture that was taken out of the rig has no name."""
    if check.fixture:
        fixture = show.fixture_by_id.get(check.fixture)
        return fixture.label if fixture else "a fixture that is gone"
    return place_of(show, check)


def place_of(show: Show, check: Check) -> str:
    """A device on a line by the names of both."""
    line = next((line for line in show.lines if line.name == check.line), None)
    if line is None:
        return check.line or check.box
    stop = wiring_of(line).by_id.get(check.stop)
    return f"{name_of(show, stop)} on {line.name}" if stop else line.name


def evidence_words(show: Show, evidence: Evidence) -> str:
    """A piece of evidence as a sentence without its full stop."""
    check, answer, value = evidence.check, evidence.answer, evidence.value
    who = whom(show, check)
    match check.kind:
        case Kind.LOOK if answer is Answer.ANOTHER:
            other = show.fixture_by_id.get(whole_number(value) or 0)
            return f"{other.label if other else 'another one'} lit instead of {who}"
        case Kind.LOOK:
            told = {
                Answer.RIGHT: "was right",
                Answer.DARK: "was dark",
                Answer.OTHER_COLOUR: "had another colour",
                Answer.OWN_PROGRAM: "ran its own program",
                Answer.FLICKER: "flickered",
            }
            return f"{who} {told[answer]}"
        case Kind.POWER:
            return f"{who} has {'power' if answer is Answer.ON else 'no power'}"
        case Kind.DISPLAY:
            return f"{who} says {value}"
        case Kind.LISTENS:
            return f"{who} is {'' if answer is Answer.YES else 'not '}set to listen to DMX"
        case Kind.RDM:
            return f"{who} {'answers' if answer is Answer.ANSWERS else 'is silent'} over RDM"
        case Kind.TESTER:
            told = {
                Answer.SIGNAL: "reads a signal",
                Answer.NO_SIGNAL: "reads no signal",
                Answer.OTHER_UNIVERSE: "reads another universe",
                Answer.ERRORS: "reads errors",
            }
            return f"the tester {told[answer]} at {who}"
        case Kind.SWAP:
            changed = "helped" if answer is Answer.HELPS else "changed nothing"
            return f"another cable to {who} {changed}"
        case Kind.NODE:
            says = f"says {value}" if answer is Answer.SAYS else "is off"
            return f"port {check.port} of {check.box} {says}"
        case Kind.DESK:
            return "the desk sends" if answer is Answer.SENDS else "the desk is in blackout"


def cause_words(show: Show, faults: Sequence[Fault]) -> str:
    """What is wrong, as a sentence; two at once joined."""
    told = [_cause(show, fault) for fault in faults]
    return ", and ".join([told[0], *(one[:1].lower() + one[1:] for one in told[1:])]) + "."


def kind_words(trouble: Trouble) -> str:
    """A kind of trouble in a few words, wherever it is."""
    return KINDS[trouble]


def remedy(show: Show, fault: Fault) -> str:
    """What to do about it, as a sentence."""
    return REMEDIES[fault.trouble].format(who=_who(show, fault), value=fault.value)


def _who(show: Show, fault: Fault) -> str:
    fixture = show.fixture_by_id.get(fault.fixture or 0)
    if fixture is not None:
        return fixture.label
    line = _line(show, fault.line)
    if line is not None and fault.stop is not None:
        stop = wiring_of(line).by_id.get(fault.stop)
        return f"{name_of(show, stop)} on {line.name}" if stop else line.name
    if fault.box:
        return f"port {fault.port} of {fault.box}" if fault.port else fault.box
    return fault.line or (f"universe {fault.value}" if fault.value else "the desk")


def _line(show: Show, name: str) -> Line | None:
    return next((line for line in show.lines if line.name == name), None)


def _cause(show: Show, fault: Fault) -> str:
    who = _who(show, fault)
    box = next((box for box in show.boxes if box.name == fault.box), None)
    told = WORDS[fault.trouble].format(who=who, value=fault.value or "another address")
    if fault.trouble is Trouble.WRONG_ADDRESS and fault.value:
        told = f"{who} stands at {int(fault.value):03d}" if fault.value.isdigit() else told
    if fault.trouble is Trouble.OFF_BY_ONE and box is not None:
        told += _counting(box)
    return told[:1].upper() + told[1:]


def _counting(box: Box) -> str:
    return f" ({box.name} counts from {number_on(box, 1)})"


WORDS: dict[Trouble, str] = {
    Trouble.NOTHING: "nothing is wrong: what was seen was a slip",
    Trouble.WRONG_MODE: "{who} is in mode {value}",
    Trouble.WRONG_ADDRESS: "{who} stands at {value}",
    Trouble.DEAF: "{who} is not set to listen to DMX",
    Trouble.NO_POWER: "{who} has no power",
    Trouble.FLAT: "the battery of {who} is flat",
    Trouble.UNLINKED: "{who} is not linked to its transmitter",
    Trouble.PLUG_OUT: "the cable run to {who} is out or broken",
    Trouble.WRONG_CABLE: "the cable run to {who} is not DMX cable",
    Trouble.SWAPPED_PAIR: "the data pair in the cable run to {who} is swapped",
    Trouble.NO_TERMINATOR: "{who} has no terminator at its end",
    Trouble.SECOND_TERMINATOR: "{who} has a terminator too many",
    Trouble.TOO_MANY_LOADS: "{who} has too many devices on one driver",
    Trouble.WRONG_UNIVERSE: "{who} gives out another universe",
    Trouble.OFF_BY_ONE: "{who} is off by one in its universe",
    Trouble.PORT_OFF: "{who} is off, or set to another protocol",
    Trouble.OTHER_NETWORK: "{who} is in another network",
    Trouble.BLACKOUT: "the desk is in blackout, or its grand master is down",
    Trouble.NOT_SENT: "the desk does not send universe {value}",
    Trouble.SECOND_SOURCE: "a second source sends universe {value}",
    Trouble.SPLITTER_OFF: "{who} has no power",
    Trouble.OUTPUT_DEAD: "output {value} of {who} is dead",
    Trouble.OWN_PROGRAM: "{who} runs its own program",
    Trouble.NO_LAMP: "the lamp, emitter or board of {who} is dead",
}
KINDS: dict[Trouble, str] = {
    Trouble.NOTHING: "nothing wrong",
    Trouble.WRONG_MODE: "wrong mode",
    Trouble.WRONG_ADDRESS: "wrong address",
    Trouble.DEAF: "not set to DMX",
    Trouble.NO_POWER: "no power",
    Trouble.FLAT: "flat battery",
    Trouble.UNLINKED: "not linked",
    Trouble.PLUG_OUT: "plug out or cable broken",
    Trouble.WRONG_CABLE: "not DMX cable",
    Trouble.SWAPPED_PAIR: "data pair swapped",
    Trouble.NO_TERMINATOR: "no terminator",
    Trouble.SECOND_TERMINATOR: "a terminator too many",
    Trouble.TOO_MANY_LOADS: "too many devices on a driver",
    Trouble.WRONG_UNIVERSE: "port on another universe",
    Trouble.OFF_BY_ONE: "port off by one",
    Trouble.PORT_OFF: "port off, or another protocol",
    Trouble.OTHER_NETWORK: "node in another network",
    Trouble.BLACKOUT: "blackout, grand master",
    Trouble.NOT_SENT: "universe not sent",
    Trouble.SECOND_SOURCE: "second source",
    Trouble.SPLITTER_OFF: "splitter without power",
    Trouble.OUTPUT_DEAD: "output of a splitter dead",
    Trouble.OWN_PROGRAM: "own program",
    Trouble.NO_LAMP: "lamp, emitter or board dead",
}
REMEDIES: dict[Trouble, str] = {
    Trouble.NOTHING: "Bring it up once more.",
    Trouble.WRONG_MODE: "Set {who} to the planned mode.",
    Trouble.WRONG_ADDRESS: "Set {who} to the planned address.",
    Trouble.DEAF: "Set {who} to listen to DMX, in its menu or by its switches.",
    Trouble.NO_POWER: "Check plug, fuse and switch of {who}; mains is for competent people.",
    Trouble.FLAT: "Charge {who}, or put another battery in.",
    Trouble.UNLINKED: "Unlink {who} from any old transmitter and link it.",
    Trouble.PLUG_OUT: "Push the plugs of the run to {who} in until they lock, or swap the cable.",
    Trouble.WRONG_CABLE: "Swap the run to {who} for DMX cable (120 ohm).",
    Trouble.SWAPPED_PAIR: "Swap the run to {who}, and mark the bad one.",
    Trouble.NO_TERMINATOR: "Put a terminator (120 ohm) behind the last device of {who}.",
    Trouble.SECOND_TERMINATOR: "Take the terminator out that is not at the end of {who}.",
    Trouble.TOO_MANY_LOADS: "Put a splitter into {who}.",
    Trouble.WRONG_UNIVERSE: "Set {who} to the planned universe.",
    Trouble.OFF_BY_ONE: "Set {who} to the number in its own counting.",
    Trouble.PORT_OFF: "Switch {who} on, with the desk's protocol.",
    Trouble.OTHER_NETWORK: "Give {who} an address and a mask in the desk's network.",
    Trouble.BLACKOUT: "Take the blackout off and the grand master up.",
    Trouble.NOT_SENT: "Have the desk send {who}.",
    Trouble.SECOND_SOURCE: "Find who else sends {who}, or raise the desk's priority.",
    Trouble.SPLITTER_OFF: "Check plug, fuse and switch of {who}; mains is for competent people.",
    Trouble.OUTPUT_DEAD: "Use another output of {who}.",
    Trouble.OWN_PROGRAM: "Take {who} out of its program, into DMX mode.",
    Trouble.NO_LAMP: "Swap {who} for another one, or have it repaired.",
}
