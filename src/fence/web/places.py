"""Where Fence does what somebody looks for: its pages by the words of the trade.

A place is found by its title, by what it is for, and by the words that people use for it. A number
among the words is taken along where the page can use one: ``DIP switches for 137``.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from itertools import takewhile

from fence.core.model.text import whole_number

MOST_WORDS = 12
"""Words of a search that are looked at."""
SILENT = frozenset(
    "a an and at by do does for from how i in is it its me my of on or the this to use what "
    "when where which why with you".split()
)
"""Words that say nothing about a place."""
TITLE, WORDS, NOTE = 4.0, 3.0, 1.0
"""What a word is worth that stands in the title, among the words, in the note."""
BEGUN = 0.6
"""What is left of it where only its beginning was typed, or another form of it."""


@dataclass(frozen=True)
class Place:
    """A page: what it is called, what it is for, where it is, by which words else it is found.

    ``takes`` is the field of its address that a number from 1 to ``most`` goes to. ``panel`` says
    that it is the panel of findings, which opens over the page that is there.
    """

    title: str
    note: str
    endpoint: str
    words: str
    args: Mapping[str, object] = field(default_factory=dict)
    takes: str = ""
    most: int = 512
    panel: bool = False

    def asked(self, words: str) -> dict[str, object]:
        """The fields of its address, with the number that stands among the words."""
        if self.takes:
            for found in re.findall(r"\d+", words):
                number = whole_number(found)
                if number is not None and 1 <= number <= self.most:
                    return {**self.args, self.takes: number}
        return dict(self.args)


PLACES = (
    # Charts
    Place(
        "Charts",
        "every fixture type of the show and its modes",
        "charts.index",
        "library profile personality personalities fixture type types channel chart manual",
    ),
    Place(
        "New chart from text",
        "paste a channel chart from a manual",
        "entering.paste",
        "import profile manual pdf make type personality enter write create",
    ),
    Place(
        "Find out a chart",
        "try channel by channel what an unknown fixture does",
        "probe.index",
        "unknown no manual lost probe reverse",
    ),
    Place(
        "Choose modes",
        "which mode of each type fits what is needed and the universes there are",
        "choose.index",
        "personality footprint compare channels fewer save slots pixel",
    ),
    Place(
        "Words of charts",
        "what the wordings of manuals mean",
        "words.index",
        "wording teach dictionary translation",
    ),
    # Rig
    Place(
        "Rig",
        "all fixtures, to filter, sort and change many at once",
        "rig.index",
        "patch list schedule fixture fixtures unit number label position rename bulk delete",
    ),
    Place(
        "Add fixtures",
        "a run of fixtures with labels, mode and addresses",
        "add.index",
        "new clone duplicate copy patch insert fixture spare more",
    ),
    # Address
    Place(
        "Address",
        "a universe as a fence: who stands where, what clashes, what is free",
        "address.index",
        "patch universe dmx start address overlap conflict clash free slots who unpatch park move "
        "swap exchange channel",
        takes="u",
        most=63999,
    ),
    Place(
        "Lay out addresses",
        "addresses for many fixtures at once, by a way of counting",
        "layout.index",
        "auto patch autopatch automatic readdress repatch renumber addressing",
    ),
    Place(
        "What if",
        "try other modes or more fixtures before anything changes",
        "trial.index",
        "try trial simulate fit",
    ),
    Place(
        "Room",
        "where so many slots are free",
        "room.index",
        "free gap gaps space capacity spare slots channels left",
    ),
    Place(
        "Universes",
        "names, reserved slots, numbers of universes",
        "universes.edit",
        "rename reserve reserved add universe",
    ),
    Place(
        "Findings",
        "all that is wrong, and what mends it",
        "address.index",
        "errors problems warnings conflicts check verify overlap mend fix",
        panel=True,
    ),
    # Lines
    Place(
        "Cable runs",
        "lines of fixtures from node to terminator",
        "lines.index",
        "cable daisy chain dmx line splitter terminator termination flicker flickers booster opto "
        "resistor 120 ohm data signal loss dropout glitch "
        "reflections unit load 32 hop length",
    ),
    Place(
        "Plan the cable runs",
        "lines with the least cable, splitters where they are needed",
        "plans.index",
        "cable route shortest splitter automatic daisy",
    ),
    Place(
        "Pull list",
        "cables, adapters and terminators to take from the store",
        "pull.index",
        "bring pack cable prep count shop order stock loom adapter terminator list",
    ),
    Place(
        "Store",
        "the cables and adapters that there are",
        "stock.index",
        "stock inventory warehouse cables lengths own",
    ),
    Place(
        "Cable or wireless",
        "what each position costs by cable and by wireless",
        "links.index",
        "wireless transmitter receiver link radio antenna channel full unlink rf",
    ),
    Place(
        "Pins and plugs",
        "how plugs are wired, and what an adapter does",
        "pins.index",
        "pinout xlr 3-pin 5-pin rj45 adapter turnaround solder wiring",
    ),
    Place(
        "Battery day",
        "when battery fixtures have to be charged",
        "day.index",
        "battery batteries charge charging runtime hours pack",
    ),
    Place(
        "Positions on the ground",
        "heights and ways between positions",
        "ground.index",
        "height distance truss position metres location measure",
    ),
    # Network
    Place(
        "Network",
        "nodes, ports and desk, and which universe comes out where",
        "network.index",
        "node nodes port gateway art-net artnet sacn e1.31 unicast multicast broadcast merge "
        "htp ltp priority",
    ),
    Place(
        "IP addresses",
        "addresses and masks of all nodes",
        "hosts.index",
        "node ip address mask subnet dhcp static network number",
    ),
    Place(
        "Plan the ports",
        "which universe each port gives out",
        "ports.index",
        "node port ports universe output assign splitter spare",
    ),
    Place(
        "Discover nodes",
        "who is on the network, beside the plan",
        "look.index",
        "artpoll discovery poll scan find node nodes network online ping",
    ),
    Place(
        "Node setup sheets",
        "what is typed in at each node",
        "boxcard.index",
        "node settings configuration sheet print card",
    ),
    Place(
        "Universe converter",
        "one universe in the countings of Art-Net, sACN and desks",
        "numbers.of_show",
        "net subnet universe convert art-net artnet sacn hex port-address number offset",
    ),
    # Set
    Place(
        "Set",
        "walk the rig and put mode and address in, fixture by fixture",
        "set.index",
        "focus crew walk address fixtures checklist prep todo tick phone",
    ),
    Place(
        "Labels and sheets",
        "stickers and sheets with addresses, to print",
        "labels.index",
        "print label labels sticker stickers qr tape paper sheet",
    ),
    Place(
        "Order of the walk",
        "in which order fixtures and steps come",
        "order.index",
        "order walk sequence steps",
    ),
    Place(
        "Same for all",
        "one step for many alike fixtures",
        "rounds.index",
        "round all reset firmware menu factory defaults together",
    ),
    Place(
        "DIP switches",
        "an address as switches, upright or upside down",
        "switches.of_show",
        "dip dipswitch dipswitches switch switches binary address dials calculator",
        takes="address",
    ),
    Place(
        "Practise",
        "drills from the own rig, hidden faults to find",
        "practise.index",
        "drill practice practise train learn quiz dip switch exercise lesson",
    ),
    # Prove
    Place(
        "Prove",
        "bring fixtures up one by one and say what is seen",
        "prove.index",
        "test channel check rig check dimmer check flash bump full open white highlight locate "
        "line up test fixture on output send blackout all out",
    ),
    Place(
        "Faders",
        "the channels of one fixture by name",
        "faders.index",
        "channel fader levels manual control park send dimmer level test home",
    ),
    Place(
        "Colour",
        "one colour over unlike fixture types",
        "colour.index",
        "color colour match mix gel white temperature cct",
    ),
    Place(
        "Troubleshoot",
        "from what is seen to what is wrong, and what to check next",
        "troubleshoot.index",
        "why dark black dead not working nothing happens flicker flickers wrong colour color no "
        "light no signal symptom cause diagnose fault finding trouble problem broken",
    ),
    Place(
        "Tester",
        "what is heard on the network, slot by slot",
        "tester.index",
        "dmx tester sniff monitor input listen receive signal source view levels sacn art-net "
        "watch values loopback meter",
    ),
    Place(
        "Compare",
        "what each fixture should show beside what it shows",
        "prove.compare",
        "dark black dead not working wrong colour fault troubleshoot unlit differs responding",
    ),
    Place(
        "Practice rig",
        "faults put in and taken out by clicking",
        "practice.index",
        "simulate simulator simulation fault faults rehearse stand-in practice rig",
    ),
    Place(
        "First lesson",
        "what levels do, on a practice fixture",
        "lesson.index",
        "learn tutorial beginner dmx basics lesson training",
    ),
    # RDM
    Place(
        "RDM",
        "who answers, beside the plan; set and identify from here",
        "rdm.index",
        "rdm discovery discover uid identify devices remote set address mode personality sensor "
        "temperature lamp hours factory reset defaults spare swap replace flash find "
        "pan tilt invert display software firmware version",
    ),
    Place(
        "Rig from RDM",
        "a plan from the devices that answer",
        "speak.index",
        "rdm import unaddressed heap all at 1 first patch from devices auto",
    ),
    Place(
        "Hold over RDM",
        "what is changed at fixtures is put back, or told",
        "hold.index",
        "rdm lock watch guard monitor changed keep",
    ),
    # Log and paper
    Place(
        "Lists",
        "patch sheet, channel list, by position or address, to print",
        "lists.index",
        "patch sheet channel list hookup schedule instrument print paper csv pdf export paperwork",
    ),
    Place(
        "Log",
        "who changed what, and snapshots of the show",
        "log.index",
        "history undo changes snapshot snapshots version versions backup note restore handover "
        "hand-over archive",
    ),
    Place(
        "Compare snapshots",
        "what differs between two states of the show",
        "log.between",
        "diff difference changes since version snapshot before after",
    ),
    Place(
        "Name and desk",
        "the show's name, and the desk with its limits",
        "shows.settings",
        "settings console desk universes limit page tell-tale rename show",
    ),
)
"""Every page of a show that somebody may look for."""


def places_for(words: str) -> list[Place]:
    """The places that words speak of, the likeliest first."""
    asked = [word for word in tokens(words)[:MOST_WORDS] if word not in SILENT]
    asked = [word for word in asked if not word.isdigit()] or asked
    if not asked:
        return []
    ranked = sorted(
        ((_worth(place, asked), -at, place) for at, place in enumerate(PLACES)), reverse=True
    )
    return [place for worth, _, place in ranked if worth > 0]


def tokens(words: str) -> list[str]:
    """The words of a text, in their simplest form."""
    return [simple(word) for word in re.findall(r"[^\W_]+(?:[.-][^\W_]+)*", words.casefold())]


def simple(word: str) -> str:
    """A word without the s of many: ``switches`` and ``switch`` are one."""
    for ending in ("ches", "shes", "xes", "sses"):
        if word.endswith(ending):
            return word[:-2]
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


def alike(word: str, known: str) -> bool:
    """Whether one is the beginning of the other, or both are forms of one word: ``terminating`` and
    ``terminator``."""
    short, long = sorted((len(word), len(known)))
    same = len(list(takewhile(lambda pair: pair[0] == pair[1], zip(word, known, strict=False))))
    return same >= 3 and (same == short or (same >= 5 and same >= 0.6 * long))


@cache
def _weights() -> list[dict[str, float]]:
    """For each place what its words are worth: those that few have are worth more."""
    said = [
        [
            *((word, TITLE) for word in tokens(place.title)),
            *((word, WORDS) for word in tokens(place.words)),
            *((word, NOTE) for word in tokens(place.note)),
        ]
        for place in PLACES
    ]
    having: dict[str, int] = {}
    for pairs in said:
        for word in {word for word, _ in pairs}:
            having[word] = having.get(word, 0) + 1
    found = []
    for pairs in said:
        weights: dict[str, float] = {}
        for word, weight in pairs:
            rare = math.log(1 + len(PLACES) / having[word])
            weights[word] = max(weights.get(word, 0.0), weight * rare)
        found.append(weights)
    return found


def _worth(place: Place, asked: list[str]) -> float:
    """How well a place answers: each word counts once, by the best that it meets."""
    weights = _weights()[PLACES.index(place)]
    total = 0.0
    for word in asked:
        best = weights.get(word, 0.0)
        if not best:
            best = BEGUN * max([w for known, w in weights.items() if alike(word, known)], default=0)
        total += best
    return total
