"""The keys of the pages: one table for the script that acts on them, the list that tells them, and
the README.

What a key does is either the id of a button or link that it presses, the first that is on the page,
or, with ``@``, a function of the script (``static/js/keys.js``).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

BOARD = frozenset({"address", "proposals", "blocks", "layout", "trial"})
"""Blueprints of the pages with the picture of a universe, or the plan as it would be."""
PLANS = frozenset({"plans", "ports", "hosts", "look", "hold", "speak"})
"""Blueprints of the pages that preview a plan of lines, of the network or of what is sent."""
CARDS = frozenset({"card", "set", "says", "place", "boxcard"})
"""Blueprints of the pages that are used at a fixture or a node."""
HANGING = frozenset({"hanging"})
"""Blueprint of the plan of where fixtures hang."""
TALK = frozenset({"rdm", "device"})
"""Blueprints of the pages that ask fixtures by RDM."""
CAPS = frozenset({"Shift", "Ctrl", "Enter", "Esc", "Space"})
"""What is written on keys of more than one letter."""


@dataclass(frozen=True, slots=True)
class Key:
    """One line of the list of keys.

    ``shown`` is how the keys are written, one after the other; words between them are words.
    ``says`` is what they do, short; ``does`` what happens by each, by the name that browsers give
    it. ``on`` are the blueprints of the pages on which they act, none for all.
    """

    shown: tuple[str, ...]
    says: str
    does: Mapping[str, tuple[str, ...]]
    on: frozenset[str] = frozenset()

    @property
    def caps(self) -> list[tuple[str, bool]]:
        """What is shown, piece by piece, each with whether it is a key."""
        pieces: list[tuple[str, bool]] = []
        for shown in self.shown:
            parts = shown.split()
            if all(part in CAPS or len(part) == 1 for part in parts):
                pieces += [(part, True) for part in parts]
            else:
                pieces.append((shown, False))
        return pieces

    def acts_on(self, blueprint: str) -> bool:
        """Whether it acts on a page of this blueprint."""
        return not self.on or blueprint in self.on


KEYS = (
    Key(
        ("←", "→"),
        "move the selected fixture by one slot, several together",
        {"ArrowLeft": ("@nudge",), "ArrowRight": ("@nudge",)},
        BOARD,
    ),
    Key(("Shift ←", "Shift →"), "move by the fixture’s own footprint", {}, BOARD),
    Key(("Shift", "click,", "Shift Enter"), "add to the selection, or take out of it", {}, BOARD),
    Key(
        ("0", "to", "9"),
        "type the address to move to",
        {str(digit): ("@type-address",) for digit in range(10)},
        BOARD,
    ),
    Key(("x",), "swap the addresses of the two selected", {"x": ("swap",)}, BOARD),
    Key(
        ("p", "b"),
        "pin or unpin, set at the fixture or not",
        {"p": ("pin", "pin-picked"), "b": ("mark-set", "set-picked", "set-next")},
        BOARD,
    ),
    Key(
        ("n", "Shift n"),
        "next finding, the one before",
        {"n": ("next-finding", "next-fixture"), "N": ("previous-finding",)},
        BOARD,
    ),
    Key(
        ("m", "c"),
        "mend all stops, close the gaps here",
        {"m": ("mend-all",), "c": ("close-gaps",)},
        BOARD,
    ),
    Key(("l", "w"), "lay out, what if", {"l": ("lay-out",), "w": ("what-if",)}, BOARD),
    Key(
        ("s", "r"),
        "sheet of the universe, where there is room",
        {"s": ("sheet",), "r": ("room",)},
        BOARD,
    ),
    Key(
        ("[", "]"),
        "universe before, universe after",
        {"[": ("previous-universe",), "]": ("next-universe",)},
        BOARD | {"sheet"},
    ),
    Key(("d",), "do what is previewed", {"d": ("apply", "keep")}, BOARD | PLANS | TALK),
    Key(("+", "-"), "larger, smaller", {"+": ("zoom-in",), "-": ("zoom-out",)}, HANGING),
    Key(
        ("a", "f"),
        "from above, from the front",
        {"a": ("from-above",), "f": ("from-front",)},
        HANGING,
    ),
    Key(("h",), "hold, over a preview: see it as it is now", {"h": ("@hold",)}, BOARD),
    Key(
        ("b", "i", "n"),
        "at a fixture: it is set, it says …, the next one",
        {
            "b": ("mark-set", "set-picked", "set-next"),
            "i": ("says",),
            "n": ("next-finding", "next-fixture"),
        },
        CARDS,
    ),
    Key(
        ("←", "→", "↑", "↓"),
        "on a line: from post to post, from line to line; with Shift ← → the post goes along",
        {},
        frozenset({"lines"}),
    ),
    Key(
        ("Space", "1", "2", "3"),
        "in Prove: it is right; dark, another one, wrong; ← → the one before, the next; 0 all out",
        {
            " ": ("right", "bring"),
            "1": ("dark",),
            "2": ("other",),
            "3": ("wrong",),
            "0": ("all-out",),
            "ArrowLeft": ("before",),
            "ArrowRight": ("after",),
        },
        frozenset({"prove"}),
    ),
    Key(
        ("1", "to", "9"),
        "in a drill: the answer of that number",
        {str(number): (f"choice-{number}",) for number in range(1, 10)},
        frozenset({"drills"}),
    ),
    Key(("a",), "add fixtures", {"a": ("add-fixtures",)}, BOARD | {"rig"}),
    Key(("/",), "find a fixture, an address such as 3/217, or a page", {"/": ("@find",)}),
    Key(("e",), "all findings", {"e": ("@findings",)}),
    Key(
        ("u", "Shift u"),
        "undo, redo; Ctrl z too",
        {"u": ("undo-button",), "U": ("redo-button",)},
    ),
    Key(
        ("g", "then a letter"),
        "go to c charts, r rig, a address, l lines, n network, s set, v prove, o log, "
        "p paper lists, w switches, u converter, d drills (Practise)",
        {},
    ),
    Key(("Enter",), "open what has the focus; the selected fixture’s page", {"Enter": ("@open",)}),
    Key(("Esc",), "close a panel, clear the selection", {"Escape": ("@leave",)}),
    Key(("?",), "this list", {"?": ("@keys",)}),
)


def keys_on(blueprint: str) -> list[Key]:
    """The keys that act on a page, in the order of the table."""
    return [key for key in KEYS if key.acts_on(blueprint)]


def map_of(keys: Iterable[Key]) -> dict[str, list[str]]:
    """What each key does, by the name that browsers give it: what comes first in the table is tried
    first."""
    found: dict[str, list[str]] = {}
    for key in keys:
        for name, does in key.does.items():
            found.setdefault(name, []).extend(one for one in does if one not in found.get(name, []))
    return found


def as_markdown(keys: Iterable[Key] = KEYS) -> str:
    """The table of keys as the README has it."""
    rows = ["| Keys | What they do |", "|---|---|"]
    for key in keys:
        caps = " ".join(f"`{piece}`" if is_key else piece for piece, is_key in key.caps)
        rows.append(f"| {caps} | {key.says} |")
    return "\n".join(rows)
