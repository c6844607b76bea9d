"""The words of the trade with what they mean, as the glossary has them, and those that each step
uses most: what the help of a page shows beside its keys."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Flask, current_app, request

from fence.web.places import PLACES

TERMS = {
    "desk": "what the levels come from",
    "universe": "512 slots under a number",
    "slot": "one of the 512; channel is what a fixture does with it",
    "start address": "a fixture's first slot",
    "fixture": "what hangs and gives light, or haze, or moves",
    "fixture type": "maker and model with its modes",
    "mode": "one way in which a fixture type listens; personality in RDM",
    "footprint": "how many slots a mode takes",
    "chart": "what each channel of a mode does",
    "patch": "which fixture listens where",
    "library": "the charts that all shows share",
    "node": "takes universes from the network and gives them out as DMX, or takes them in",
    "port": "a socket of a node, with the universe that it gives out",
    "cable run": "one cable from one socket to the next",
    "device on the line": "a fixture, splitter, transmitter, terminator or adapter in a line",
    "line": "everything that one DMX output drives, in its order",
    "splitter": "drives several outputs from one input; passive Y does not",
    "terminator": "120 ohm at the end of a line",
    "wireless": "DMX without a cable: transmitter, receiver, link, unlink, channel",
    "pull list": "what to take from the store for this show",
    "DIP switches": "the row of small switches that sets an address",
    "address dials": "turned wheels that set an address",
    "display": "the menu on the fixture",
    "set": "put mode and address in at the fixture",
    "re-set": "set again, since the plan changed",
    "read back": "what the fixture was seen to say",
    "proven": "seen to do what was planned, brought up alone",
    "drill": "questions of one kind to practise on",
    "case": "a rig with faults that somebody hid for others to find",
    "RDM": "asking and setting fixtures over the data line (ANSI E1.20)",
    "UID": "the number by which RDM tells devices apart",
    "identify": "a fixture shows which one it is",
    "discovery": "finding who is on a line, or which nodes are on the network",
    "mute": "a found device stays quiet during discovery",
    "factory defaults": "what a device was like when it left its maker",
    "unicast, multicast, broadcast": "to one address, to who joined, to everybody",
    "merge HTP, LTP": "the highest level counts, or the latest",
    "priority": "the number by which one sACN source wins over others",
    "blackout": "all levels at zero; all out on Fence's own output",
    "universe converter": "one universe number in the countings of Art-Net, sACN and desks",
    "node setup sheet": "what is typed in at a node",
    "patch sheet, channel list, hand-over": "lists on paper",
    "stop": "a rule is broken: it cannot work so; nothing else is called a stop on pages",
    "caution": "it works, with a risk",
    "note": "worth knowing",
    "accept": "a finding stays, for a reason, up to a day",
    "mend": "one finding's computed way out; repair: of the whole rig",
    "before, after": "the two sides of a preview; Apply and Cancel end it",
    "snapshot": "a named state of the show",
    "position": "a bar, a truss, a stand: where fixtures hang",
    "walk": "the order in which the crew goes along the fixtures",
    "pin": "never moved by a computed change",
    "calculate": "what the machine does with numbers",
}
"""Each term and what it is; the same as in ``docs/glossary.md``."""
OF_STEP = {
    "charts": ("chart", "fixture type", "mode", "footprint", "library"),
    "rig": ("fixture", "patch", "position", "mode", "start address"),
    "address": ("universe", "slot", "start address", "footprint", "pin"),
    "lines": ("line", "cable run", "splitter", "terminator", "wireless"),
    "network": ("node", "port", "unicast, multicast, broadcast", "merge HTP, LTP", "priority"),
    "set": ("set", "re-set", "read back", "walk", "display"),
    "prove": ("proven", "blackout", "priority", "slot", "universe"),
    "rdm": ("RDM", "UID", "identify", "discovery", "factory defaults"),
    "switches": ("DIP switches", "address dials", "start address", "display", "set"),
    "lists": ("patch sheet, channel list, hand-over", "patch", "position", "universe", "slot"),
    "practise": ("drill", "case", "start address", "universe", "mode"),
    "log": ("snapshot", "accept", "before, after", "re-set", "proven"),
    "findings": ("stop", "caution", "note", "mend", "accept"),
    "shows": ("desk", "universe", "patch", "fixture", "snapshot"),
}
"""The five terms of each step, by the package that its pages stand in."""


@dataclass(frozen=True, slots=True)
class Help:
    """What a page is for, and its terms with what they mean."""

    purpose: str
    terms: tuple[tuple[str, str], ...]


def help_here() -> Help:
    """The help of the page that is asked for."""
    endpoint = request.endpoint or ""
    place = next((place for place in PLACES if place.endpoint == endpoint), None)
    view = current_app.view_functions.get(endpoint)
    package = view.__module__.split(".")[2] if view else ""
    terms = tuple((term, TERMS[term]) for term in OF_STEP.get(package, ()))
    return Help(f"{place.title}: {place.note}." if place else "", terms)


def register(app: Flask) -> None:
    """Make the help known to templates."""
    app.add_template_global(help_here)
